"""Edits of stages: a lab of one task cut into stages, a stage added, renamed, moved and taken away."""

from dataclasses import dataclass
from typing import Literal

from ..lab.entries import move, outdented
from ..lab.schema import ID
from ..lab.splice import entries_of, last_line
from .draft import CannotEdit, Draft

_STAGED = ("answer", "pings", "services", "scheme")


@dataclass(frozen=True, slots=True, kw_only=True)
class AddStage:
    """Add a stage behind the others. A lab without any gets its first one, which all that is asked goes into."""

    do: Literal["add-stage"] = "add-stage"
    id: str
    title: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the stage, which is looked at from then on."""
        if ID.pattern.fullmatch(self.id) is None:
            raise CannotEdit(f"{self.id[:40]!r} is not {ID.what}.")
        if any(stage.stage == self.id for stage in draft.whole.stages):
            raise CannotEdit(f"There is a stage {self.id} already.")
        if draft.lab.stage:
            return Draft(draft.insert("stages", {"id": self.id, "title": self.title}).text, self.id)
        return Draft(_into_stage(draft.text, self.id, self.title), self.id)


def _into_stage(text: str, ident: str, title: str) -> str:
    """Move what is asked at the top of the file into a first stage, every line as it is."""
    entries = entries_of(text)
    lines = text.rstrip("\n").split("\n")
    moved: list[str] = []
    gone: set[int] = set()
    for key in _STAGED:
        found = entries.get(key)
        if found is None or found[0] is None:
            continue
        first, last = found[0].start_mark.line, last_line(lines, found[1])
        moved += [f"    {line}" if line.strip() else line for line in lines[first : last + 1]]
        gone |= set(range(first, last + 1))
    kept = [line for n, line in enumerate(lines) if n not in gone]
    head = ["stages:", f"  - id: {ident}", *(f"    {line}" for line in outdented("title", title))]
    return "\n".join([*kept, *head, *moved, ""])


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveStage:
    """Take a stage away, with all that it asks."""

    do: Literal["remove-stage"] = "remove-stage"
    id: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft without the stage."""
        number = _number(draft, self.id)
        if len(draft.whole.stages) == 1:
            raise CannotEdit("This is the only stage: change it, or take it apart in the text.")
        return Draft(draft.remove(f"stages[{number}]").text)


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveStage:
    """Put a stage at another place of the order in which they are sat, counted from 0."""

    do: Literal["move-stage"] = "move-stage"
    id: str
    to: int

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the stage moved."""
        return draft.with_text(move(draft.text, f"stages[{_number(draft, self.id)}]", self.to))


def _number(draft: Draft, ident: str) -> int:
    for number, stage in enumerate(draft.whole.stages):
        if stage.stage == ident and ident:
            return number
    raise CannotEdit(f"There is no stage {ident[:40]}.")


STAGE_EDITS = AddStage | RemoveStage | MoveStage
