"""Names that are free: loopbacks, pools, lists, lease blocks and instances are paired with the model answer's.

By contents first (most in common), by name second, by order third. What has no counterpart gives way where it
bears the name of one.
"""

from collections.abc import Callable, Hashable, Iterable, Set
from dataclasses import dataclass, replace

from ...lab import Lab
from ...sheet import AnyItem, Block, Configuration, OnPort
from ...sheet.statement import Statement
from ...sheet.statements import Dynamic, Entry, Instance, LeaseNetwork, Member, Pool
from ...sheet.statements.translation import LIST

Contents = dict[str, set[Hashable]]
"""What there is by name, in the order of the sheet, each with its contents."""
EMPTY = Configuration()
Names = dict[str, str]
"""Names of the model answer by the learner's, both as they are written."""


def with_model_names(
    learner: Configuration, model: Configuration, strict: Set[str] = frozenset()
) -> Configuration:
    """Give what the learner names the names that its counterparts in the model answer have.

    ``strict`` are names of the model answer, in small letters, that the learner has to use.
    """
    for kind in KINDS:
        ours = {name: held for name, held in kind.contents(model).items() if name.lower() not in strict}
        mine = {name: held for name, held in kind.contents(learner).items() if name.lower() not in strict}
        names = _paired(mine, ours, kind.refers)
        if names:
            folded = {mine.lower(): ours for mine, ours in names.items()}
            learner = Configuration.of_items(kind.renamed(item, folded) for item in learner.items)
    return learner


def meant_in(lab: Lab) -> Callable[[str, Configuration], Configuration]:
    """Return what gives the names in a device's sheet those of the lab's model answer."""
    return lambda device, learner: with_model_names(learner, lab.model[device])


def _paired(mine: Contents, ours: Contents, refers: bool) -> Names:
    """Pair names; returns those that change, and all where other statements refer to them, in whatever capitals."""
    if not mine or not ours:
        return {}
    ranked = sorted(
        (-len(own & others), name.lower() != other.lower(), abs(i - j), i, j, name, other)
        for i, (name, own) in enumerate(mine.items())
        for j, (other, others) in enumerate(ours.items())
    )
    pairs: Names = {}
    for *_, name, other in ranked:
        if name not in pairs and other not in pairs.values():
            pairs[name] = other
    taken = {name.lower() for name in ours}
    for name in mine:
        if name not in pairs and name.lower() in taken:
            pairs[name] = _free(name, taken | {m.lower() for m in mine})
    return {name: other for name, other in pairs.items() if refers or name.lower() != other.lower()}


def _free(name: str, taken: set[str]) -> str:
    return next(f"{name}-{n}" for n in range(2, 1000) if f"{name}-{n}".lower() not in taken)


@dataclass(frozen=True)
class _Kind:
    """A kind of name: what bears it, with its contents, and how an item is renamed."""

    contents: Callable[[Configuration], Contents]
    renamed: Callable[[AnyItem, Names], AnyItem]
    refers: bool = False


def _blocks(word: str, kind: type[Statement]) -> Callable[[Configuration], Contents]:
    def contents(configuration: Configuration) -> Contents:
        return {
            b.name: {_content(i.statement) for i in configuration.all(kind, b)}
            for b in configuration.blocks(word)
        }

    return contents


def _content(statement: Statement) -> Hashable:
    return statement.interface.ip if isinstance(statement, OnPort) else statement


def _pools(configuration: Configuration) -> Contents:
    return {p.statement.name: {p.statement.addresses} for p in configuration.all(Pool)}


def _instances(configuration: Configuration) -> Contents:
    """Instances by their ports."""
    found: Contents = {i.statement.name: set() for i in configuration.all(Instance)}
    by_name = {name.lower(): ports for name, ports in found.items()}
    for member in configuration.everywhere(Member):
        ports = by_name.get(member.statement.instance.lower())
        if ports is not None and member.block is not None:
            ports.add(member.block.key)
    return found


def _block(item: AnyItem, word: str, names: Names) -> AnyItem:
    block = item.block
    if block is None or block.kind != word or block.name.lower() not in names:
        return item
    return replace(item, block=Block(block.kind, names[block.name.lower()], block.instance))


def _list(item: AnyItem, names: Names) -> AnyItem:
    statement = item.statement
    if isinstance(statement, Dynamic) and isinstance(statement.who, str) and statement.who.lower() in names:
        return replace(item, statement=replace(statement, who=names[statement.who.lower()]))
    return _block(item, LIST, names)


def _pool(item: AnyItem, names: Names) -> AnyItem:
    statement = item.statement
    if isinstance(statement, Pool) and statement.name.lower() in names:
        return replace(item, statement=replace(statement, name=names[statement.name.lower()]))
    if isinstance(statement, Dynamic) and statement.where.lower() in names:
        return replace(item, statement=replace(statement, where=names[statement.where.lower()]))
    return item


def _instance(item: AnyItem, names: Names) -> AnyItem:
    statement, block = item.statement, item.block
    if isinstance(statement, Instance):
        statement = replace(statement, name=names.get(statement.name.lower(), statement.name))
    own = getattr(statement, "instance", None)
    if isinstance(own, str) and own.lower() in names:
        statement = replace(statement, instance=names[own.lower()])  # type: ignore[call-arg]  # it has such a field
    if block is not None and block.instance is not None and block.instance.lower() in names:
        block = Block(block.kind, block.name, names[block.instance.lower()])
    return replace(item, statement=statement, block=block)


KINDS: tuple[_Kind, ...] = (
    _Kind(_blocks("loopback", OnPort), lambda item, names: _block(item, "loopback", names)),
    _Kind(_blocks(LIST, Entry), _list, True),
    _Kind(_pools, _pool, True),
    _Kind(_blocks("dhcp", LeaseNetwork), lambda item, names: _block(item, "dhcp", names)),
    _Kind(_instances, _instance, True),
)
"""Every kind of name that is free."""


def kept_under_another_name(
    learner: Configuration, before: Configuration, now: Configuration, gone: Iterable[AnyItem]
) -> list[AnyItem]:
    """Return what has the contents of what is ``gone`` from ``before``, unless the model answer has them ``now``, too.

    Of lists, pools and the like the name says nothing.
    """
    items = list(gone)
    named = {i.block.name.lower() for i in items if i.block is not None}
    named |= {i.statement.name.lower() for i in items if isinstance(i.statement, Pool)}
    names = _with_contents_of(named, learner, before, now)
    uses = [i.statement for i in items if isinstance(i.statement, Dynamic)]
    lists = _with_contents_of({str(u.who).lower() for u in uses}, learner, before, EMPTY)
    pools = _with_contents_of({u.where.lower() for u in uses}, learner, before, EMPTY)

    def is_kept(item: AnyItem) -> bool:
        statement = item.statement
        if isinstance(statement, Dynamic):
            return str(statement.who).lower() in lists and statement.where.lower() in pools
        if isinstance(statement, Pool):
            return statement.name.lower() in names
        return item.block is not None and item.block.kind != "port" and item.block.name.lower() in names

    return [item for item in learner.items if is_kept(item)]


def _with_contents_of(
    named: Set[str], learner: Configuration, before: Configuration, now: Configuration
) -> set[str]:
    """Return the learner's names, in small letters, of what holds something that was there and is no more."""
    names: set[str] = set()
    for kind in KINDS:
        still = {c for held in kind.contents(now).values() for c in held}
        lost = {c for n, held in kind.contents(before).items() if n.lower() in named for c in held} - still
        names |= {n.lower() for n, held in kind.contents(learner).items() if held & lost}
    return names


def names_in(configuration: Configuration) -> set[tuple[int, str]]:
    """Return the free names of a configuration, in small letters, each with the number of its kind."""
    return {(n, name.lower()) for n, kind in enumerate(KINDS) for name in kind.contents(configuration)}


def named_by(items: Iterable[AnyItem]) -> set[str]:
    """Return the names, in small letters, that statements and their blocks bear or refer to."""
    found: set[str] = set()
    for item in items:
        statement = item.statement
        if item.block is not None:
            found.add(item.block.name.lower())
        if isinstance(statement, Dynamic):
            found |= {name.lower() for name in (statement.who, statement.where) if isinstance(name, str)}
        if isinstance(statement, Member):
            found.add(statement.instance.lower())
    return found
