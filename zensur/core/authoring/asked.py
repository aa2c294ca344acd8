"""Edits of the pings and service checks that a lab expects; criteria that name one by its number follow."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from ..lab.entries import move
from .draft import CannotEdit, Draft
from .numbered import Listed, left_of, listed_count, reordered


@dataclass(frozen=True, slots=True, kw_only=True)
class Expect:
    """Expect an outcome of pings; one that is listed already gets the other outcome.

    ``pings`` hold ``from``, ``to``, ``expect`` and what else an entry may say.
    """

    do: Literal["expect"] = "expect"
    pings: tuple[dict[str, str], ...]

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the pings, new ones behind the others."""
        place = f"{draft.stage_place}pings"
        for ping in self.pings:
            asked = {k: v for k, v in ping.items() if v}
            number = _listed(draft, place, asked)
            if number is None:
                draft = draft.insert(place, asked)
            else:
                draft = draft.put(f"{place}[{number}].expect", asked.get("expect", ""))
        return draft


_WHICH = ("from", "to", "source", "family", "out")
"""What tells a ping from another: the rest is what is expected of it."""


def _listed(draft: Draft, place: str, asked: Mapping[str, str]) -> int | None:
    """Find a ping that asks the same, in the file, but for its outcome."""
    typed = draft.typed
    for number in range(len(draft.lab.pings)):
        said = {k: typed.get(f"{place}[{number}].{k}", "").lower() for k in _WHICH}
        if all(said[k] == asked.get(k, "").lower() for k in said):
            return number
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class Forget:
    """Take pings or service checks off the list, by their numbers from 0, with the criteria that name them."""

    do: Literal["forget"] = "forget"
    listed: Listed = "pings"
    numbers: tuple[int, ...]

    def apply(self, draft: Draft) -> Draft:
        """Return the draft without them."""
        gone = sorted(set(self.numbers), reverse=True)
        of = listed_count(draft, draft.stage_place, self.listed)
        if not gone or gone[0] >= of or gone[-1] < 0:
            raise CannotEdit(f"There is no entry {gone[0] + 1 if gone else 0} in {self.listed}.")
        stage = draft.stage_place
        draft, criteria = reordered(draft, stage, self.listed, left_of(draft, stage, self.listed, gone))
        for place in (*reversed(criteria), *(f"{stage}{self.listed}[{number}]" for number in gone)):
            draft = draft.remove(place)
        return draft


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveAsked:
    """Put a ping or check at another place of the order in which they run, counted from 0."""

    do: Literal["move-asked"] = "move-asked"
    listed: Listed = "pings"
    number: int
    to: int

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the ping moved."""
        of = listed_count(draft, draft.stage_place, self.listed)
        if not 0 <= self.number < of:
            raise CannotEdit(f"There is no entry {self.number + 1} in {self.listed}.")
        order = list(range(of))
        order.insert(min(max(self.to, 0), of - 1), order.pop(self.number))
        draft, _ = reordered(draft, draft.stage_place, self.listed, order)
        return draft.with_text(move(draft.text, f"{draft.stage_place}{self.listed}[{self.number}]", self.to))


ASKED_EDITS = Expect | Forget | MoveAsked
