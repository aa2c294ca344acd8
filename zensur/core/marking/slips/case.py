"""A slip to be recognised: the edit with what is known around it, and the parts of which slips are made."""

from collections.abc import Callable
from dataclasses import dataclass

from ...sheet import OnPort, Statement
from ..judging.judge import Attempt, Judge
from ..searching.edits import Edit, said


@dataclass(frozen=True)
class Case:
    """An edit with what is needed to recognise its slip."""

    edit: Edit
    judge: Judge
    attempt: Attempt
    only_back: bool
    """Whether every ping that needs the edit arrives and only the answer is lost."""

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
        return f"{self.edit.device} {block.port_name}" if block else self.edit.device

    def has(self, kind: type[Statement]) -> bool:
        """Whether the learner's block has a statement of a kind."""
        return self.attempt.configurations[self.edit.device].one(kind, self.edit.block) is not None

    def own_addresses(self) -> set[object]:
        """The device's addresses, as the learner has them and as the model answer has them."""
        name = self.edit.device
        both = (self.attempt.configurations[name], self.judge.lab.model[name])
        return {i.statement.interface.ip for c in both for b in c.bearers() for i in c.all(OnPort, b)}

    def held_elsewhere(self, address: object) -> str | None:
        """Find another device that has an address in the model answer."""
        for name, model in self.judge.lab.model.items():
            blocks = model.bearers()
            if name != self.edit.device and any(
                i.statement.interface.ip == address for b in blocks for i in model.all(OnPort, b)
            ):
                return name
        return None

    def networks(self) -> list[object]:
        """The networks of the device's ports, as the learner has them and as the model answer has them."""
        name = self.edit.device
        both = (self.attempt.configurations[name], self.judge.lab.model[name])
        return [i.statement.interface.network for c in both for b in c.bearers() for i in c.all(OnPort, b)]


@dataclass(frozen=True)
class Slip:
    """A kind of mistake. ``fits`` recognises it, ``said`` explains it to the learner in a sentence."""

    keyword: str
    title: str
    fits: Callable[[Case], bool]
    said: Callable[[Case], str]


def adds(kind: type[Statement]) -> Callable[[Case], bool]:
    """Recognise a statement of a kind that is missing."""
    return lambda case: isinstance(case.wanted, kind) and case.found is None


def changes(kind: type[Statement]) -> Callable[[Case], bool]:
    """Recognise a statement of a kind in the place of another of that kind."""
    return lambda case: isinstance(case.wanted, kind) and isinstance(case.found, kind)


def removes(kind: type[Statement]) -> Callable[[Case], bool]:
    """Recognise a statement of a kind that should not be there."""
    return lambda case: isinstance(case.found, kind) and case.wanted is None


def is_said(case: Case) -> str:
    """Return what stands in the sheet, in words."""
    return said(case.edit.remove[0]) if case.edit.remove else "nothing"


def needs(case: Case) -> str:
    """Return what should stand there, in words."""
    return said(case.edit.add[0]) if case.edit.add else "nothing"
