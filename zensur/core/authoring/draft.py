"""A lab's text while it is worked on: what it says now, and the few ways in which every edit changes it."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from ..lab import Device, End, Lab, LabError, Link, ReadLab, read_lab
from ..lab.entries import add, insert, remove
from ..lab.splice import CannotSplice, Entry, entries_of, put, take, texts
from ..sheet import AnyItem, Configuration, read_sheet
from ..sheet.editing import CannotEdit as CannotEditSheet
from ..sheet.editing import put_line, put_statement, take_statement
from ..sim import Network
from ..weave import Weave, weave

Side = str
"""``given`` or ``answer``, or ``start``."""


_AROUND = re.compile(
    r"^(?:stages\[\d+\]\.)?(?:scheme(?:\.grades)?|answer|given|start|remove|variables|networks)\."
)
"""What stands around keys that may be the first of their map."""


class CannotEdit(ValueError):
    """An edit cannot be made; ``str()`` says why, and what to do."""


@dataclass(frozen=True)
class Draft:
    """A lab's text, of which a stage is looked at: the last where none is named.

    Raises :class:`CannotEdit` where nothing can be made of the text.
    """

    text: str
    stage: str = ""
    values: Mapping[str, int] = field(default_factory=dict)
    """Those of a learner, where variables are looked at with other than their smallest ones."""

    @cached_property
    def _read(self) -> ReadLab:
        return read_lab(self.text, self.values)

    @property
    def errors(self) -> tuple[LabError, ...]:
        """Why the text cannot be used as a lab; what could be made of it is there all the same."""
        return self._read.errors

    @cached_property
    def whole(self) -> Lab:
        """The lab with all its stages."""
        lab = self._read.lab or self._read.draft
        if lab is None:
            first = self.errors[0]
            raise CannotEdit(f"The text has to be mended first: line {first.line}: {first.message}")
        return lab

    @cached_property
    def lab(self) -> Lab:
        """The stage that is looked at."""
        return next((s for s in self.whole.stages if s.stage == self.stage), self.whole)

    @cached_property
    def network(self) -> Network:
        """The model answer, compiled."""
        return Network.of_lab(self.lab, self.lab.model)

    @cached_property
    def chart(self) -> Weave:
        """The weave."""
        return weave(self.lab, self.network, planned=True)

    @cached_property
    def typed(self) -> Mapping[str, str]:
        """Every text of the file by its place, as it was typed."""
        return texts(self.text)

    @cached_property
    def entries(self) -> Mapping[str, Entry]:
        """Every entry of the file by its place, in the order of the file."""
        return entries_of(self.text)

    def statement(self, device: str, header: str, statement: str) -> AnyItem:
        """Find a statement of the model by its text, under a header or at the top."""
        for item in self.lab.model[device].items:
            own = item.block.header() if item.block else ""
            if own.lower() == header.lower() and item.text() == statement:
                return item
        raise CannotEdit(f"{device} has no {statement[:60]}{f' under {header}' if header else ''}.")

    def device(self, name: str) -> Device:
        """Find a device."""
        device = self.lab.device(name)
        if device is None:
            raise CannotEdit(f"There is no device {name[:40]}.")
        return device

    def link_at(self, end: End) -> tuple[int, Link] | None:
        """Find the link of a port, with its number in the file."""
        return next(((n, link) for n, link in enumerate(self.lab.links) if end in link.ends), None)

    def with_text(self, text: str) -> "Draft":
        """Return the draft after a change."""
        return Draft(text, self.stage)

    # What follows returns the draft with one thing changed.

    def put(self, place: str, value: str) -> "Draft":
        """Put a text at a place, which is made where it is not there."""
        if place in self.typed:
            return self.with_text(_spliced(put, self.text, place, value))
        return self.add(place, value)

    def add(self, place: str, value: object) -> "Draft":
        """Add a key with its value; maps around it that are not there yet are made."""
        around = _AROUND.match(place)
        if around and around[0][:-1] not in self.entries:
            return self.add(around[0][:-1], {place[around.end() :]: value})
        return self.with_text(_spliced(add, self.text, place, value))

    def put_list(self, place: str, value: list[object]) -> "Draft":
        """Put another list at a place."""
        return self.remove(place).add(place, value)

    def insert(self, place: str, value: object, at: int | None = None) -> "Draft":
        """Put an entry into a list."""
        if place not in self.entries:
            return self.add(place, [value])
        return self.with_text(_spliced(insert, self.text, place, value, at))

    def remove(self, place: str) -> "Draft":
        """Take an entry away; a task without criteria stays, for it has a title."""
        around, _, rest = place.rpartition("[")
        if around.endswith(".criteria") and rest == "0]" and f"{around}[1]" not in self.entries:
            return self.with_text(_spliced(remove, self.text, around)).add(around, [])
        return self.with_text(_spliced(remove, self.text, place))

    def sheet_place(self, side: Side, device: str) -> str:
        """Return the place of a sheet in the file; names are met whatever their capitals."""
        lab = self.lab
        staged = lab.stage and (side == "answer" or (side == "given" and len(lab.stages) > 1))
        place = f"{self.stage_place}{side}.{device}" if staged else f"{side}.{device}"
        return next((p for p in self.typed if p.lower() == place.lower()), place)

    @property
    def stage_place(self) -> str:
        """What stands before the keys of the stage: empty where the lab has none."""
        return f"stages[{len(self.lab.stages) - 1}]." if self.lab.stage else ""

    def put_sheet(self, place: str, text: str) -> "Draft":
        """Put a sheet at its place; an empty one is taken away."""
        if not text.strip():
            return self.with_text(_spliced(remove if place in self.typed else take, self.text, place))
        return self.put(place, text if text.endswith("\n") else f"{text}\n")

    def put_statement(self, side: Side, device: str, header: str, statement: str) -> "Draft":
        """Put a statement into a sheet of a device: where it stands already, else into that of the side."""
        draft = self._begun(device) if side == "answer" else self
        place = draft.sheet_place(side, device)
        return draft.put_sheet(place, _in_sheet(put_statement, draft.typed.get(place, ""), header, statement))

    def _begun(self, device: str) -> "Draft":
        """Begin the model answer of a device with the sheet that learners begin with: it is a whole sheet, too."""
        start = self.sheet_place("start", device)
        answer = self.sheet_place("answer", device)
        if start in self.typed and answer not in self.typed and self.lab.before is None:
            return self.put(answer, self.typed[start])
        return self

    def place_of(self, item: AnyItem) -> tuple[str, int]:
        """Return the sheet in which a statement of the model stands, and its line.

        Raises :class:`CannotEdit` where that is an earlier stage's.
        """
        if item.where is None:
            raise CannotEdit(f"{item.text()} stands in no sheet.")
        place = item.where.file.replace("/", ".", 1)
        if place.startswith("stages[") and not place.startswith(self.stage_place):
            stage = self.whole.stages[int(place[7 : place.index("]")])]
            raise CannotEdit(f"{item.text()} stands in the stage {stage.stage_title}: change it there.")
        return place, item.where.line

    def put_line(self, item: AnyItem, statement: str) -> "Draft":
        """Write another statement in the line of one of the model."""
        draft, place = self._at(item)
        text = draft.typed[place]
        configuration = read_sheet(text).configuration
        own = _found(configuration, text, item)
        return draft.put_sheet(place, _in_sheet(put_line, text, configuration, own, statement))

    def _at(self, item: AnyItem) -> "tuple[Draft, str]":
        """Return the sheet of a statement; one that learners begin with is copied into the model answer first."""
        place, _ = self.place_of(item)
        if not place.startswith("start."):
            return self, place
        device = place.removeprefix("start.")
        draft = self._begun(device)
        return draft, draft.sheet_place("answer", device)

    def take(self, item: AnyItem) -> "Draft":
        """Take a statement of the model out of its sheet."""
        draft, place = self._at(item)
        text = draft.typed[place]
        own = _found(read_sheet(text).configuration, text, item)
        return draft.put_sheet(place, _in_sheet(take_statement, text, own))


def _found(configuration: Configuration, text: str, item: AnyItem) -> AnyItem:
    """Find a statement of the model in its sheet as typed."""
    assert item.where is not None
    here = [i for i in configuration.items if i.where and i.where.line == item.where.line]
    own = next((i for i in here if i.slot == item.slot), None)
    if own is None:
        line = text.split("\n")[item.where.line - 1].strip()
        raise CannotEdit(f"The line {line} holds a variable: change it in the sheet.")
    return own


def _in_sheet(change, *args: object) -> str:  # type: ignore[no-untyped-def]
    try:
        return str(change(*args))
    except CannotEditSheet as cannot:
        raise CannotEdit(str(cannot)) from None


def _spliced(change, *args: object) -> str:  # type: ignore[no-untyped-def]
    try:
        return str(change(*args))
    except CannotSplice as cannot:
        raise CannotEdit(str(cannot)) from None
