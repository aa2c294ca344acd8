"""The nat rules of an nftables ruleset, as ``nft --json`` prints it, in the order in which the kernel tries them.

Only what is listed here is understood: matches by interface, source, destination and port numbers, with sets, maps,
ranges and prefixes; translation of source and destination; returns and accepts. A rule with anything else is refused
whole.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from ipaddress import IPv4Address, IPv4Network, ip_network, summarize_address_range
from typing import Any

from ...sheet import Where
from .alternatives import NotUnderstood, elements, plain_rules

Span = tuple[int, int]
"""The first and the last of port numbers."""
_MOST_JUMPS, _MOST_STEPS, _MOST_NETWORKS = 16, 2_000, 256
"""So deep chains jump, so many rules are followed in all, and so many networks may one of them name."""
_ANY = IPv4Network("0.0.0.0/0")
_SILENT = ("counter", "log", "comment")
_BOTH_WAYS = ("random", "fully-random", "persistent")
_ALL_PROTOCOLS = {"icmp", "tcp", "udp"}


class _Never(Exception):
    """No packet fits a rule."""


@dataclass(frozen=True, slots=True)
class Source:
    """Sources that a rule is about, or (not ``permit``) that it passes over."""

    permit: bool
    networks: tuple[IPv4Network, ...]


@dataclass(frozen=True, slots=True)
class Condition:
    """What packets a rule is for; None where it does not ask."""

    enters: frozenset[str] | None = None
    leaves: frozenset[str] | None = None
    sources: tuple[Source, ...] = ()
    dest: tuple[IPv4Network, ...] | None = None
    protocol: str | None = None
    to_ports: tuple[Span, ...] | None = None
    from_ports: tuple[Span, ...] | None = None


@dataclass(frozen=True, slots=True)
class Target:
    """What a translation makes of an address: ``first`` to ``last``, None for that of the port; with port numbers."""

    first: IPv4Address | None
    last: IPv4Address | None
    ports: Span | None = None


@dataclass(frozen=True, slots=True)
class Translation:
    """A translation that a rule orders, in the place where it stands. ``chain`` tells apart runs of rules."""

    hook: str
    condition: Condition
    target: Target
    where: Where
    chain: tuple[str, ...]
    words: str


@dataclass(frozen=True, slots=True)
class Refused:
    """A rule that is not understood."""

    words: str
    why: str
    where: Where


@dataclass(slots=True)
class _Table:
    """A table: its chains with their rules, its sets."""

    chains: dict[str, list[tuple[list[Any], Where]]] = field(default_factory=dict)
    sets: dict[str, Any] = field(default_factory=dict)
    bases: list[tuple[int, str, str]] = field(default_factory=list)


def translations_in(entries: Sequence[tuple[dict[str, Any], Where]]) -> Iterator[Translation | Refused]:
    """Yield what the rules of nat chains at prerouting and postrouting order, by hook, priority and place."""
    tables: dict[tuple[str, str], _Table] = {}
    dormant: set[tuple[str, str]] = set()
    for entry, where in entries:
        kind, told = next(iter(entry.items()))
        if not isinstance(told, dict):
            continue
        family = str(told.get("family", ""))
        if kind == "table" and "dormant" in (told.get("flags") or []):
            dormant.add((family, str(told.get("name", ""))))
        own = tables.setdefault((family, str(told.get("table", ""))), _Table())
        name = str(told.get("name", ""))
        if kind == "chain":
            own.chains.setdefault(name, [])
            if told.get("type") == "nat" and told.get("hook") in ("prerouting", "postrouting"):
                prio = told.get("prio")
                own.bases.append((prio if isinstance(prio, int) else 0, str(told["hook"]), name))
        elif kind == "rule" and isinstance(told.get("expr"), list):
            own.chains.setdefault(str(told.get("chain", "")), []).append((told["expr"], where))
        elif kind in ("set", "map"):
            own.sets[name] = told.get("elem") or []
    for hook in ("prerouting", "postrouting"):
        bases = [
            (prio, family, table, chain)
            for (family, name), table in tables.items()
            if (family, name) not in dormant
            for prio, at, chain in table.bases
            if at == hook
        ]
        for _, family, table, chain in sorted(bases, key=lambda base: base[0]):
            yield from _Walk(hook, family, table).chain(chain, Condition(), ())


_LetGo = tuple[Source, frozenset[str] | None]
"""Sources that a rule has let go, where they leave by some ports, or (None) by any."""


def _by_port(let_go: Sequence[_LetGo], condition: Condition) -> Iterator[Condition]:
    """Yield a condition with the denials of what was let go before, for each port by itself where they differ."""
    leaves = condition.leaves
    named = {by for _, by in let_go if by is not None}
    if leaves is None and named:
        raise NotUnderstood("a rule before it lets packets go by some ports only")
    whole = leaves is None or all(leaves <= by or not leaves & by for by in named)
    for part in [leaves] if leaves is None or whole else [frozenset((port,)) for port in sorted(leaves)]:
        denied = tuple(source for source, by in let_go if by is None or (part is not None and part <= by))
        yield replace(condition, leaves=part, sources=(*denied, *condition.sources))


class _Walk:
    """One base chain, and what it jumps to."""

    def __init__(self, hook: str, family: str, table: _Table) -> None:
        self.hook, self.family, self.table = hook, family, table
        self.ended = False
        self.steps = 0
        self.accepted: list[_LetGo] = []
        """Sources whose packets an accept has let go: nothing after it is for them."""

    def chain(self, name: str, outer: Condition, path: tuple[str, ...]) -> Iterator[Translation | Refused]:
        """Yield what a chain orders, for packets that come to it under a condition."""
        path = (*path, name)
        passed: list[_LetGo] = []
        for expr, where in self.table.chains.get(name, ()):
            if self.ended:
                return
            if self.steps >= _MOST_STEPS:
                self.ended = True
                yield Refused(
                    words_of(expr), f"more than {_MOST_STEPS:,} rules would have to be followed", where
                )
                return
            words = words_of(expr)
            try:
                for condition, verdict in self._orders(expr, outer):
                    if isinstance(verdict, Target) or verdict[0] in ("jump", "goto"):
                        for part in _by_port((*self.accepted, *passed), condition):
                            if isinstance(verdict, Target):
                                yield Translation(self.hook, part, verdict, where, path, words)
                            else:
                                yield from self._jump(verdict, part, outer, path)
                        if not isinstance(verdict, Target) and verdict[0] == "goto":
                            return
                    elif self._let_go(verdict[0], condition, outer, path, passed):
                        return
            except NotUnderstood as why:
                yield Refused(words, str(why), where)

    def _jump(
        self, verdict: tuple[str, str], condition: Condition, outer: Condition, path: tuple[str, ...]
    ) -> Iterator[Translation | Refused]:
        """Follow a jump; a goto does not come back, so that it is followed only where it takes all packets."""
        if len(path) > _MOST_JUMPS:
            raise NotUnderstood("chains jump to one another too deep")
        if verdict[0] == "goto" and condition != outer:
            raise NotUnderstood("it goes to another chain for some packets only, and does not come back")
        yield from self.chain(verdict[1], condition, path)

    def _let_go(
        self,
        verdict: str,
        condition: Condition,
        outer: Condition,
        path: tuple[str, ...],
        passed: list["_LetGo"],
    ) -> bool:
        """Take note of the packets that a return or accept lets go; True where nothing of the chain is left to do."""
        own = condition.sources[len(outer.sources) :]
        if replace(condition, sources=(), leaves=None) != replace(outer, sources=(), leaves=None):
            raise NotUnderstood("it lets packets go by more than their source")
        by = condition.leaves if condition.leaves != outer.leaves else None
        if len(own) > 1 or not all(source.permit for source in own):
            raise NotUnderstood("it lets packets go by other than their source")
        for_good = verdict == "accept" or len(path) == 1
        if not own and by is None:
            if len(path) > 1 and verdict == "accept":
                raise NotUnderstood("it lets all packets go that come to its chain")
            self.ended = for_good
            return True
        networks = own[0].networks if own else (_ANY,)
        (self.accepted if for_good else passed).append((Source(False, networks), by))
        return False

    def _orders(self, expr: list[Any], outer: Condition) -> list[tuple[Condition, Target | tuple[str, str]]]:
        """Return what a rule orders, for each plain rule that it comes to; it is refused whole."""
        found: list[tuple[Condition, Target | tuple[str, str]]] = []
        for rule in plain_rules(expr, self.table.sets):
            self.steps += 1
            try:
                condition, verdict = self._rule(rule, outer)
            except _Never:
                continue
            if verdict is not None:
                found.append((condition, verdict))
        if found and self.family not in ("ip", "inet"):
            raise NotUnderstood(f"it is of the family {self.family or 'unknown'}")
        return found

    def _rule(self, expr: list[Any], outer: Condition) -> tuple[Condition, Target | tuple[str, str] | None]:
        condition = outer
        verdict: Target | tuple[str, str] | None = None
        for part in expr:
            if not isinstance(part, dict) or len(part) != 1:
                raise NotUnderstood("it has a part that is not known")
            kind, told = next(iter(part.items()))
            if kind == "match":
                condition = self._match(told, condition)
            elif kind in _SILENT:
                continue
            elif kind in ("snat", "dnat", "masquerade"):
                verdict = self._target(kind, told or {})
            elif kind in ("jump", "goto") and isinstance(told, dict):
                verdict = (kind, str(told.get("target", "")))
            elif kind in ("return", "accept"):
                verdict = (kind, "")
            else:
                raise NotUnderstood(f"{kind} is not read")
        return condition, verdict

    # --- matches -------------------------------------------------------------------------------------

    def _match(self, told: Any, now: Condition) -> Condition:
        if not isinstance(told, dict):
            raise NotUnderstood("it has a match that is not known")
        left, op, right = told.get("left"), told.get("op"), elements(told.get("right"), self.table.sets)
        if op not in ("==", "in", "!="):
            raise NotUnderstood(f"it compares by {op}")
        key = _key(left)
        if key == ("ip", "saddr"):
            source = Source(op != "!=", _all_networks(right))
            return replace(now, sources=(*now.sources, source))
        if op == "!=":
            raise NotUnderstood(f"it matches all but some by {' '.join(key)}")
        return self._matched(key, right, now)

    def _matched(self, key: tuple[str, str], right: list[Any], now: Condition) -> Condition:
        if key in (("meta", "iifname"), ("meta", "oifname"), ("meta", "iif"), ("meta", "oif")):
            names = frozenset(str(one) for one in right)
            if any("*" in name for name in names):
                raise NotUnderstood("it names interfaces by a pattern")
            if key[1].startswith("i"):
                return replace(now, enters=names if now.enters is None else names & now.enters)
            return replace(now, leaves=names if now.leaves is None else names & now.leaves)
        if key == ("ip", "daddr"):
            networks = _all_networks(right)
            return replace(now, dest=networks if now.dest is None else _both(now.dest, networks))
        if key in (("meta", "l4proto"), ("ip", "protocol")):
            named = {str(one) for one in right}
            if named >= _ALL_PROTOCOLS:
                return now
            if len(named) == 1 and named <= {"tcp", "udp"}:
                return _of_protocol(named.pop(), now)
            raise NotUnderstood("it is for some protocols only")
        if key in (("meta", "nfproto"), ("meta", "protocol")) and set(map(str, right)) <= {"ipv4", "ip"}:
            return now
        if key[0] in ("tcp", "udp") and key[1] in ("dport", "sport"):
            spans = tuple(_span(one) for one in right)
            now = _of_protocol(key[0], now)
            if key[1] == "dport":
                return replace(now, to_ports=_common(now.to_ports, spans))
            return replace(now, from_ports=_common(now.from_ports, spans))
        raise NotUnderstood(f"it matches by {' '.join(key)}")

    # --- verdicts ------------------------------------------------------------------------------------

    def _target(self, kind: str, told: Any) -> Target:
        if not isinstance(told, dict):
            raise NotUnderstood(f"its {kind} is not known")
        if kind != ("dnat" if self.hook == "prerouting" else kind) or (kind == "dnat") != (
            self.hook == "prerouting"
        ):
            raise NotUnderstood(f"{kind} stands in a chain at {self.hook}")
        flags = told.get("flags") or []
        flags = [flags] if isinstance(flags, str) else flags
        if any(flag not in _BOTH_WAYS for flag in flags):
            raise NotUnderstood(f"its {kind} has the flag {flags[0]}")
        ports = _span(told["port"]) if told.get("port") is not None else None
        address = told.get("addr")
        if address is None:
            if kind != "masquerade":
                raise NotUnderstood(f"its {kind} names no address")
            return Target(None, None, ports)
        networks = _networks(address)
        return Target(networks[0].network_address, networks[-1].broadcast_address, ports)


def _key(left: Any) -> tuple[str, str]:
    if isinstance(left, dict) and isinstance(left.get("meta"), dict):
        return "meta", str(left["meta"].get("key", ""))
    if isinstance(left, dict) and isinstance(left.get("payload"), dict):
        told = left["payload"]
        return str(told.get("protocol", "")), str(told.get("field", ""))
    raise NotUnderstood("it matches by something else than interfaces, addresses and port numbers")


def _of_protocol(protocol: str, now: Condition) -> Condition:
    if now.protocol not in (None, protocol):
        raise _Never
    return replace(now, protocol=protocol)


def _common(some: tuple[Span, ...] | None, others: tuple[Span, ...]) -> tuple[Span, ...]:
    """Return the port numbers that both demands leave over."""
    if some is None:
        return others
    found = tuple((max(a, c), min(b, d)) for a, b in some for c, d in others if max(a, c) <= min(b, d))
    if not found:
        raise _Never
    return found


def _both(some: tuple[IPv4Network, ...], others: tuple[IPv4Network, ...]) -> tuple[IPv4Network, ...]:
    """Return the networks that both demands leave over."""
    found = tuple(meet(some, others))
    if not found:
        raise _Never
    return found


def meet(some: tuple[IPv4Network, ...], others: tuple[IPv4Network, ...]) -> Iterator[IPv4Network]:
    """Yield the networks that are in both of two lists."""
    for one in some:
        for other in others:
            if one.subnet_of(other):
                yield one
            elif other.subnet_of(one):
                yield other


def _networks(told: Any) -> list[IPv4Network]:
    """Return an address, a prefix or a range as networks."""
    try:
        if isinstance(told, dict) and "prefix" in told:
            found = ip_network(f"{told['prefix']['addr']}/{told['prefix']['len']}", strict=False)
            networks: list[Any] = [found]
        elif isinstance(told, dict) and "range" in told:
            first, last = (IPv4Address(str(one)) for one in told["range"])
            networks = list(summarize_address_range(first, last))
        elif isinstance(told, str):
            networks = [ip_network(told, strict=False)]
        else:
            networks = []
    except (ValueError, TypeError, KeyError):
        networks = []
    if not networks or any(not isinstance(n, IPv4Network) for n in networks):
        raise NotUnderstood(f"{words_of([told])[:40]} is no IPv4 address, prefix or range")
    return networks


def _all_networks(told: list[Any]) -> tuple[IPv4Network, ...]:
    """Return the networks of a whole set."""
    found = tuple(n for one in told[: _MOST_NETWORKS + 1] for n in _networks(one))
    if len(found) > _MOST_NETWORKS:
        raise NotUnderstood(f"it names more than {_MOST_NETWORKS} networks")
    return found


def _span(told: Any) -> Span:
    """Return one port number, or a range."""
    ends = told.get("range") if isinstance(told, dict) else [told, told]
    if (
        isinstance(ends, list)
        and len(ends) == 2
        and all(isinstance(e, int) and 1 <= e <= 65535 for e in ends)
    ):
        return ends[0], ends[1]
    raise NotUnderstood(f"{words_of([told])[:40]} is no port number")


def words_of(told: Any) -> str:
    """Write a rule in words, so that it is known again."""
    if isinstance(told, list):
        return " ".join(filter(None, map(words_of, told)))
    if not isinstance(told, dict):
        return "" if told is None else str(told)
    if "match" in told and isinstance(told["match"], dict):
        match = told["match"]
        op = "!= " if match.get("op") == "!=" else ""
        return f"{words_of(match.get('left'))} {op}{words_of(match.get('right'))}"
    if "meta" in told:
        return words_of(told["meta"].get("key") if isinstance(told["meta"], dict) else told["meta"])
    if "payload" in told and isinstance(told["payload"], dict):
        return f"{told['payload'].get('protocol')} {told['payload'].get('field')}"
    if "prefix" in told and isinstance(told["prefix"], dict):
        return f"{told['prefix'].get('addr')}/{told['prefix'].get('len')}"
    if "range" in told and isinstance(told["range"], list):
        return "-".join(map(words_of, told["range"]))
    if "set" in told:
        return "{ " + words_of(told["set"]) + " }"
    if isinstance(told.get("map"), dict):
        return f"{words_of(told['map'].get('key'))} map {words_of(told['map'].get('data'))}"
    if isinstance(told.get("concat"), list):
        return " . ".join(map(words_of, told["concat"]))
    return " ".join(
        f"{key} {words_of(value)}".strip() for key, value in told.items() if key not in ("family", "flags")
    )
