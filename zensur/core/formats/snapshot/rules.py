"""Translations written as rules of nftables, for a learner to type."""

from collections.abc import Iterator, Sequence
from ipaddress import IPv4Address
from typing import Any

from ...addresses import AddressRange
from ...sheet import Configuration
from ...sheet.statements import Dynamic, Entry, OneToOne, Pool, Published, Realm
from ...sheet.statements.translation import LIST

_MOST_RULES = 32


class Unsaid(Exception):
    """A statement for which there is no command that every machine has."""


_Rule = tuple[bool, str]
"""A rule, and whether it stands where packets come in."""


def rules_of(added: Configuration, outside: Sequence[str]) -> list[str]:
    """Return the translations of a configuration as lines for ``nft -f``; nothing where there are none.

    ``outside`` are the ports by which packets leave, for those that name none. Raises :class:`Unsaid`.
    """
    rules = list(_rules(added, outside))
    return list(_ruleset(rules)) if rules else []


def _rules(added: Configuration, outside: Sequence[str]) -> Iterator[_Rule]:
    statements = [i.statement for i in added.items]
    for said in statements:
        if isinstance(said, Published | OneToOne):
            yield from _mapped(said, _ways(said.port, outside))
    for said in statements:
        if isinstance(said, Dynamic):
            yield from _dynamic(said, added, outside)
    told = any(isinstance(s, Published | OneToOne | Dynamic) for s in statements)
    if not told and any(isinstance(s, Pool | Entry | Realm) for s in statements):
        raise Unsaid  # it belongs to rules that are not at hand


def _ways(port: str | None, outside: Sequence[str]) -> str:
    ports = [port] if port is not None else [*outside]
    if not ports:
        raise Unsaid
    named = ", ".join(f'"{p}"' for p in ports)
    return named if len(ports) == 1 else f"{{ {named} }}"


def _mapped(said: Published | OneToOne, ways: str) -> Iterator[_Rule]:
    if isinstance(said, OneToOne):
        if not isinstance(said.outside, IPv4Address):
            raise Unsaid
        yield True, f"iifname {ways} ip daddr {said.outside} dnat to {said.inside}"
        yield False, f"oifname {ways} ip saddr {said.inside} snat to {said.outside}"
        return
    to = f"{said.protocol} dport {said.outside.number} dnat to {said.inside.holder}:{said.inside.number}"
    holder = said.outside.holder
    if isinstance(holder, IPv4Address):
        yield True, f"iifname {ways} ip daddr {holder} {to}"
    else:
        yield True, f'iifname "{holder}" {to}'


def _dynamic(said: Dynamic, added: Configuration, outside: Sequence[str]) -> Iterator[_Rule]:
    pool = next(
        (i.statement for i in added.all(Pool) if i.statement.name.lower() == said.where.lower()), None
    )
    if said.first is not None:
        raise Unsaid
    if pool is not None and isinstance(pool.addresses, AddressRange):
        first, last = pool.addresses.first, pool.addresses.last
        to = f"snat to {first}" if first == last else f"snat to {first}-{last}"
        to += "" if said.shared else " persistent"
        ways = _ways(said.port, outside)
    elif said.shared and said.where.lower() in {p.lower() for p in outside}:
        to, ways = "masquerade", _ways(said.port or said.where, ())
    else:
        raise Unsaid
    entries: list[tuple[bool, Any]] = [(True, said.who)]
    if isinstance(said.who, str):
        block = next((b for b in added.blocks(LIST) if b.name.lower() == said.who.lower()), None)
        listed = added.all(Entry, block) if block else ()
        entries = [(i.statement.permit, i.statement.prefix) for i in listed]
        if not 0 < len(entries) <= _MOST_RULES:
            raise Unsaid
    for permit, prefix in entries:
        yield False, f"oifname {ways} ip saddr {prefix} {to if permit else 'return'}"


def _ruleset(rules: Sequence[_Rule]) -> Iterator[str]:
    """Yield the rules in a table; they come to those of a table of its name that is there already."""
    yield "table ip translation {"
    for inward, chain, priority in ((True, "prerouting", "dstnat"), (False, "postrouting", "srcnat")):
        own = [rule for at_entry, rule in rules if at_entry is inward]
        if own:
            yield f"  chain {chain} {{"
            yield f"    type nat hook {chain} priority {priority};"
            yield from (f"    {rule}" for rule in own)
            yield "  }"
    yield "}"
