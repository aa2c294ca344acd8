"""A slip to be recognised: the edit with what is known around it, and the parts of which slips are made."""

from collections.abc import Callable
from dataclasses import dataclass

from ...lab import Lab
from ...sheet import Configuration, OnPort, Statement
from ...sheet.statement import folded
from ...sheet.statements import Member
from ..differences.edits import Edit, Of, plain_text
from ..session import Attempt, Session
from .made import Made, not_made


@dataclass(frozen=True)
class Case:
    """An edit with what is needed to recognise its slip."""

    edit: Edit
    session: Session
    attempt: Attempt
    only_back: bool
    """Whether every ping that needs the edit arrives and only the answer is lost."""

    @property
    def lab(self) -> Lab:
        """The lab."""
        return self.session.lab

    @property
    def device(self) -> str:
        """The device."""
        return self.edit.device

    @property
    def learner(self) -> Configuration:
        """The device as the learner has it."""
        return self.attempt.configurations[self.edit.device]

    @property
    def model(self) -> Configuration:
        """The device as the model answer has it."""
        return self.lab.model[self.edit.device]

    @property
    def found(self) -> Statement | None:
        """What stands in the sheet."""
        return self.edit.remove[0].statement if self.edit.remove else None

    @property
    def wanted(self) -> Statement | None:
        """What should stand there."""
        return self.edit.add[0].statement if self.edit.add else None

    @property
    def place(self) -> str:
        """The device and, where the edit is about one, the port."""
        block = self.edit.block
        if block is None or not block.name:
            return self.device
        return f"{self.device} {block.port_name}"

    def has(self, kind: type[Statement]) -> bool:
        """Whether the learner's block has a statement of a kind."""
        return self.learner.one(kind, self.edit.block) is not None

    def own_addresses(self, instance: str | None = None) -> set[object]:
        """The addresses of one of the device's instances, as the learner has them and as the model answer has them."""
        return {
            i.statement.interface.ip
            for c in (self.learner, self.model)
            for b in c.bearers()
            if folded(m.statement.instance if (m := c.one(Member, b)) else None) == folded(instance)
            for i in c.all(OnPort, b)
        }

    def held_elsewhere(self, address: object) -> str | None:
        """Find another device that has an address in the model answer."""
        for name, model in self.lab.model.items():
            blocks = model.bearers()
            if name != self.device and any(
                i.statement.interface.ip == address for b in blocks for i in model.all(OnPort, b)
            ):
                return name
        return None

    def networks(self) -> list[object]:
        """The networks of the device's ports, as the learner has them and as the model answer has them."""
        both = (self.learner, self.model)
        return [i.statement.interface.network for c in both for b in c.bearers() for i in c.all(OnPort, b)]


Fits = Callable[[Case], bool]


@dataclass(frozen=True)
class Slip:
    """A kind of mistake, declared once.

    ``fits`` recognises it. ``said`` is the sentence for the learner, ``told`` the one for the instructor, which holds
    for every learner who made it. ``made`` makes it, wherever it can be made of a model answer.
    """

    keyword: str
    title: str
    fits: Fits
    said: Callable[[Case], str]
    told: str
    made: Made = not_made


def adds(*kinds: type[Statement]) -> Fits:
    """Recognise a statement of one of some kinds that is missing."""
    return lambda case: isinstance(case.wanted, kinds) and case.found is None


def changes(kind: type[Statement]) -> Fits:
    """Recognise a statement of a kind in the place of another of that kind."""
    return lambda case: isinstance(case.wanted, kind) and isinstance(case.found, kind)


def removes(kind: type[Statement]) -> Fits:
    """Recognise a statement of a kind that should not be there."""
    return lambda case: isinstance(case.found, kind) and case.wanted is None


def wants(*kinds: type[Statement]) -> Fits:
    """Recognise that a statement of one of some kinds is wanted, whatever stands there."""
    return lambda case: isinstance(case.wanted, kinds)


def mends(of: Of) -> Fits:
    """Recognise what an edit mends as a whole."""
    return lambda case: case.edit.of is of


def is_said(case: Case) -> str:
    """Return what stands in the sheet, in words."""
    return plain_text(case.edit.remove[0]) if case.edit.remove else "nothing"


def needs(case: Case) -> str:
    """Return what should stand there, in words."""
    return plain_text(case.edit.add[0]) if case.edit.add else "nothing"


def port_of(case: Case, number: int) -> str:
    """Name the port that one of the statements taken away stands on, with its device where there are several."""
    parts = [(part.device, item) for part in (case.edit, *case.edit.others) for item in part.remove]
    device, item = parts[number]
    port = item.block.port_name if item.block else ""
    return f"{port} of {device}" if len(case.edit.devices) > 1 else port
