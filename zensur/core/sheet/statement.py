"""What all statements have in common: the declaration of their spelling, and how they are written."""

from collections.abc import Mapping, Sequence
from dataclasses import MISSING, dataclass, fields
from enum import Enum
from functools import cached_property, lru_cache
from typing import Any, ClassVar, Self

from .grammar import Form, Slot

TOP = "top"
"""The place of statements that stand in the first column."""


class Twice(Enum):
    """What counts of two statements that exclude each other, and whether the second is an error."""

    LAST = (True, False)
    FIRST = (False, False)
    LAST_AND_ERROR = (True, True)
    FIRST_AND_ERROR = (False, True)

    @property
    def last_counts(self) -> bool:
        """Whether the later one counts."""
        return self.value[0]

    @property
    def is_error(self) -> bool:
        """Whether saying it twice is an error, and not only worth a note."""
        return self.value[1]


class On(Enum):
    """On which ports a statement has a meaning."""

    ANY = "any"
    SWITCH = "only a switch's"
    ROUTED = "any but a switch's, which only carry frames"
    SERIAL = "only serial ones"


@dataclass(frozen=True, slots=True)
class Traits:
    """What is true of a statement whatever it says."""

    ports: On = On.ANY
    needs_forwarding: str = ""
    """What it does on a device that forwards, and on no other: ``translates``."""
    only_describes: bool = False
    """Whether it changes nothing of the network."""
    first_fits: bool = False
    """Whether the first of several that fits decides, so that their order counts."""
    exchanged: bool = False
    """Whether two places may have each other's by mistake."""
    identifies: bool = False
    """Whether it says enough to be known again on another device."""
    gives_way_to: str = ""
    """The statement that may stand in its place by mistake, by the name of its class."""
    compared_apart: bool = False
    """Whether its differences are found by rules of its own, and not by its slot."""


class Spec:
    """What the language says of one statement; ``uncounted`` is why no criterion counts it, where none does."""

    def __init__(
        self,
        *forms: Form,
        places: tuple[str, ...],
        about: str,
        tails: tuple[Form, ...] = (),
        twice: Twice = Twice.LAST,
        twice_code: str = "said-twice",
        traits: Traits = Traits(),
        uncounted: str = "",
    ) -> None:
        self.forms = forms
        self.places = places
        self.about = about
        self.tails = tails
        self.twice, self.twice_code = twice, twice_code
        self.traits, self.uncounted = traits, uncounted
        self.repeats = any(form.repeats for form in forms)

    @cached_property
    def words(self) -> frozenset[str]:
        """The first words of the statement: one, or two as in on and off."""
        return frozenset(str(form.must[0]) for form in self.forms)

    @cached_property
    def said_in_tails(self) -> list[frozenset[str]]:
        """The fields that each tail fills."""
        return [frozenset(e.field for e in tail.must if isinstance(e, Slot)) for tail in self.tails]


@dataclass(frozen=True, slots=True)
class Statement:
    """One statement of a sheet, whichever it is."""

    SPEC: ClassVar[Spec]

    @property
    def slot(self) -> tuple[object, ...]:
        """What there can be only one of: two statements of one block with the same slot exclude each other."""
        return (type(self),)

    @classmethod
    def build(cls, values: Mapping[str, Any]) -> Self:
        """Make the statement from what was read; raises :class:`BadValue` where values do not go together."""
        return cls(**values)

    def plain(self) -> "Statement":
        """Return the statement without what only describes it."""
        return self

    def text(self) -> str:
        """Write the statement in its canonical form, without indent."""
        return _written(self)

    def goes_with(self, other: "Statement") -> bool:
        """Say whether both are written in one line: only the value that repeats differs."""
        spec = self.SPEC
        if type(self) is not type(other) or not spec.repeats:
            return False
        repeated = {e.field for form in spec.forms for e in form.must if isinstance(e, Slot)}
        return all(
            getattr(self, f.name) == getattr(other, f.name) for f in fields(self) if f.name not in repeated
        )


@lru_cache(maxsize=8192)
def _written(statement: Statement) -> str:
    """Write a statement; the same ones are asked for again and again while papers are marked."""
    return write_together([statement])


def write_together(statements: Sequence[Statement]) -> str:
    """Write statements that go together as one line."""
    first = statements[0]
    spec = first.SPEC
    defaults = {f.name: f.default for f in fields(first) if f.default is not MISSING}
    said_later = frozenset().union(*spec.said_in_tails)
    own = {name: value for name, value in defaults.items() if name not in said_later}
    words = [next(w for form in spec.forms if (w := form.write(statements, own)) is not None)]
    for tail, names in zip(spec.tails, spec.said_in_tails, strict=True):
        if any(getattr(first, name) != defaults[name] for name in names):
            words.append(tail.write([first], {}) or "")
    return " ".join(words)


def folded(name: str | None) -> str | None:
    """Return a name as names are compared: without regard to case."""
    return None if name is None else name.lower()


IN_INSTANCE = Form("in {instance:instance}")
"""The tail of statements that hold in one network instance."""
