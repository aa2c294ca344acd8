"""Keys of criteria: what may be asked of a device, of a ping, or of a learner, each declared once.

A key is declared where it is judged, in :mod:`zensur.core.marking.criteria`; :mod:`zensur.core` makes all of them
known to the reader of lab files when it is loaded. The reader, the schema, the derived scheme, marking and the
reference follow from the declaration.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from ..sheet import STATEMENTS, AnyItem, Configuration
from ..sheet.statement import Statement
from ..sheet.statements import Open
from .model import Criterion, Device, Lab
from .schema import CRITERION
from .shapes import Choice, Found, Key, Text

Place = tuple[str, str]
"""Operand and network instance of a criterion."""
Read = Callable[["CriterionKey", Found, Lab], Iterator[Criterion]]
"""Reads the criteria of an entry of the scheme; what is wrong is reported at its place."""


def _nowhere(item: AnyItem, configuration: Configuration) -> Place | None:
    return None


def _first(item: AnyItem, configuration: Configuration) -> int:
    return 0


def _never(item: AnyItem, device: Device) -> bool:
    return False


@dataclass(frozen=True, kw_only=True)
class CriterionKey:
    """What a criterion asks for.

    ``counts`` are the statements of the model answer that it counts, each at its ``place``: the criterion's operand and
    instance, None where it is not counted. ``needless`` says that a statement goes without saying on a device, so that
    the derived scheme leaves it out. ``further`` are keys of the lab file that say more.
    """

    word: str
    about: str
    judge: Callable[[Any, Criterion, Any], Any]
    """Compares: takes the session, the criterion and the attempt, and returns what was judged."""
    read: Read
    counts: tuple[type[Statement], ...] = ()
    place: Callable[[AnyItem, Configuration], Place | None] = _nowhere
    answers: Callable[[Criterion, Configuration], list[AnyItem]] | None = None
    """The statements of a model answer that a criterion is about, where it counts none of them."""
    behind: Callable[[AnyItem, Configuration], int] = _first
    """How many statements of the same place are preferred to one, where each is a criterion of its own."""
    needless: Callable[[AnyItem, Device], bool] = _never
    marks: float = 1.0
    """What it earns where the scheme is derived."""
    task: str = "Other settings"
    """The task that it stands under where the scheme is derived; {device} may stand in it."""
    further: Mapping[str, Key] = field(default_factory=dict)
    values: tuple[str, ...] = ()
    """The only values that it may have; any text where there are none."""
    such_as: str = ""
    """An example of its value."""
    by_share: bool = False
    """Whether something too much is a loss, too."""
    beside: bool = False
    """Whether it is judged among the other devices as the model answer has them, or as the learner does: the better."""
    of_run: bool = False
    """Whether it is a ping or check, which is run on the whole network."""
    of_network: bool = False
    """Whether it comes of the whole network, as what is run does."""
    of_paper: bool = False
    """Whether it is about no device, but about what the learner answered."""
    bears_name: bool = False
    """Whether it is about what has a name of the learner's own, which ``name: strict`` may ask for."""


KEYS: dict[str, CriterionKey] = {}
"""Every key by its word; complete once :mod:`zensur.core` is loaded, and never changed after."""
_COUNTING: dict[type[Statement], list[CriterionKey]] = {}


class NotCounted(Exception):
    """A statement that no criterion counts, and that does not say why."""


def declare(*keys: CriterionKey) -> None:
    """Make keys known; raises :class:`NotCounted` where a statement is left that none of them counts."""
    common = dict(CRITERION.keys)
    for key in keys:
        KEYS[key.word] = key
        CRITERION.keys[key.word] = Key(Choice(*key.values) if key.values else Text(), key.about)
        CRITERION.keys.update(key.further)
        for kind in key.counts:
            _COUNTING.setdefault(kind, []).append(key)
    for word in common:  # behind those of one key
        CRITERION.keys[word] = CRITERION.keys.pop(word)
    check_counted(STATEMENTS)


def check_counted(statements: tuple[type[Statement], ...]) -> None:
    """Raise :class:`NotCounted` where a statement is neither counted by a criterion nor declared uncounted."""
    for kind in statements:
        counted, why = kind in _COUNTING, kind.SPEC.uncounted
        if counted == bool(why):
            word = next(iter(kind.SPEC.words))
            raise NotCounted(
                f"{kind.__name__} ({word}) is counted by no criterion: name it among the counts of a key in "
                "zensur/core/marking/criteria, or say in its Spec why it is uncounted."
                if not counted
                else f"{kind.__name__} ({word}) is declared uncounted, and {_COUNTING[kind][0].word} counts it."
            )


def counted_by(device: str, item: AnyItem, configuration: Configuration) -> Criterion | None:
    """Return the criterion that counts a statement; None where its effect is counted elsewhere, or not at all."""
    for key in _COUNTING.get(type(item.statement), ()):
        place = key.place(item, configuration)
        if place is not None:
            behind = key.behind(item, configuration)
            return Criterion(key.word, device, place[0], key.marks, None, place[1], behind=behind)
    return None


def on_port(item: AnyItem, configuration: Configuration) -> Place | None:
    """Count a statement at its port, sub-port, loopback or VLAN interface."""
    return (item.block.port_name, "") if item.block is not None else None


def at_top(operand: Callable[[Any], str]) -> Callable[[AnyItem, Configuration], Place | None]:
    """Count a statement of the first column by an operand of its own, in its network instance."""
    return lambda item, _: (operand(item.statement), getattr(item.statement, "instance", None) or "")


def in_block(operand: Callable[[Any], str]) -> Callable[[AnyItem, Configuration], Place | None]:
    """Count a statement of a block by an operand of its own, in the block's network instance."""
    return lambda item, _: (operand(item.statement), item.block.instance or "") if item.block else None


def opens(item: AnyItem) -> bool:
    """Whether an item is the header of a block."""
    return isinstance(item.statement, Open)
