"""The nat rules of an nftables ruleset, as ``nft --json`` prints it, in the order in which the kernel tries them.

Only what is listed here is understood: matches by interface, source, destination and port numbers, with sets, maps,
ranges and prefixes; translation of source and destination; returns and accepts. A rule with anything else is refused
whole.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from ipaddress import IPv4Address, IPv4Network
from typing import Any

from ...sheet import Where
from .alternatives import elements, plain_rules
from .networks import Networks, Never, Span, all_networks, in_both, networks_of, span_of, spans_in_both
from .wording import NotUnderstood, words_of

_MOST_JUMPS, _MOST_STEPS, _MOST_DENIED = 16, 2_000, 1_024
"""So deep chains jump, so many rules are followed in all, and so many networks may be let go before one of them."""
_A_STEP = 64
"""Elements that are looked at for one step."""
_ANY = IPv4Network("0.0.0.0/0")
_SILENT = ("counter", "log", "comment")
_BOTH_WAYS = ("random", "fully-random", "persistent")
_ALL_PROTOCOLS = {"icmp", "tcp", "udp"}


@dataclass(frozen=True, slots=True)
class Condition:
    """What packets a rule is for; None where it does not ask. Of the sources ``permitted`` it passes over those that
    are ``denied``.
    """

    enters: frozenset[str] | None = None
    leaves: frozenset[str] | None = None
    permitted: Networks | None = None
    denied: Networks = ()
    dest: Networks | None = None
    protocol: str | None = None
    to_ports: tuple[Span, ...] | None = None
    from_ports: tuple[Span, ...] | None = None

    @property
    def single(self) -> IPv4Address | None:
        """The one source that it is about, where it is one."""
        only = self.permitted[0] if self.permitted and len(self.permitted) == 1 and not self.denied else None
        return only.network_address if only is not None and only.prefixlen == 32 else None


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


_LetGo = tuple[Networks, frozenset[str] | None]
"""Sources that a rule has let go, where they leave by some ports, or (None) by any."""


def _by_port(let_go: Sequence[_LetGo], condition: Condition) -> Iterator[Condition]:
    """Yield a condition with the denials of what was let go before, for each port by itself where they differ."""
    leaves = condition.leaves
    named = {by for _, by in let_go if by is not None}
    if leaves is None and named:
        raise NotUnderstood("a rule before it lets packets go by some ports only")
    whole = leaves is None or all(leaves <= by or not leaves & by for by in named)
    for part in [leaves] if leaves is None or whole else [frozenset((port,)) for port in sorted(leaves)]:
        gone = [own for own, by in let_go if by is None or (part is not None and part <= by)]
        denied = tuple(dict.fromkeys((*(network for own in gone for network in own), *condition.denied)))
        if len(denied) > _MOST_DENIED:
            raise NotUnderstood(f"rules before it let more than {_MOST_DENIED:,} networks go")
        yield replace(condition, leaves=part, denied=denied)


class _Walk:
    """One base chain, and what it jumps to."""

    def __init__(self, hook: str, family: str, table: _Table) -> None:
        self.hook, self.family, self.table = hook, family, table
        self.ended = False
        self.steps, self.looked_at = 0, 0
        self.accepted: list[_LetGo] = []
        """Sources whose packets an accept has let go: nothing after it is for them."""

    def chain(self, name: str, outer: Condition, path: tuple[str, ...]) -> Iterator[Translation | Refused]:
        """Yield what a chain orders, for packets that come to it under a condition."""
        path = (*path, name)
        passed: list[_LetGo] = []
        for expr, where in self.table.chains.get(name, ()):
            if self.ended:
                return
            if self.steps + self.looked_at // _A_STEP >= _MOST_STEPS:
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
        for_good = verdict == "accept" or len(path) == 1
        beside = (
            Condition() if for_good else outer
        )  # whoever comes to a chain by another way is let go by none of it
        if replace(condition, permitted=None, denied=(), leaves=None) != replace(
            beside, permitted=None, denied=(), leaves=None
        ):
            raise NotUnderstood("it lets packets go by more than their source")
        gone = {network for networks, by in self.accepted if by is None for network in networks}
        if not gone.issuperset(condition.denied) if for_good else condition.denied != outer.denied:
            raise NotUnderstood("it lets packets go by other than their source")
        by = condition.leaves if condition.leaves != beside.leaves else None
        own = condition.permitted if condition.permitted != beside.permitted else None
        if own is None and by is None:
            self.ended = for_good
            return True
        (self.accepted if for_good else passed).append((own or (_ANY,), by))
        return False

    def _orders(self, expr: list[Any], outer: Condition) -> list[tuple[Condition, Target | tuple[str, str]]]:
        """Return what a rule orders, for each plain rule that it comes to; it is refused whole."""
        found: list[tuple[Condition, Target | tuple[str, str]]] = []
        for rule in plain_rules(expr, self.table.sets):
            self.steps += 1
            try:
                condition, verdict = self._rule(rule, outer)
            except Never:
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
        self.looked_at += len(right)
        if op not in ("==", "in", "!="):
            raise NotUnderstood(f"it compares by {op}")
        key = _key(left)
        if key == ("ip", "saddr"):
            networks = all_networks(right)
            if op == "!=":
                return replace(now, denied=(*now.denied, *networks))
            return replace(now, permitted=in_both(now.permitted, networks))
        if op == "!=":
            raise NotUnderstood(f"it matches all but some by {' '.join(key)}")
        return self._matched(key, right, now)

    def _matched(self, key: tuple[str, str], right: list[Any], now: Condition) -> Condition:
        if key in (("meta", "iifname"), ("meta", "oifname"), ("meta", "iif"), ("meta", "oif")):
            names = frozenset(str(one) for one in right)
            if any("*" in name for name in names):
                raise NotUnderstood("it names interfaces by a pattern")
            if key[1].startswith("i"):
                return replace(now, enters=_named(now.enters, names))
            return replace(now, leaves=_named(now.leaves, names))
        if key == ("ip", "daddr"):
            return replace(now, dest=in_both(now.dest, all_networks(right)))
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
            spans = tuple(span_of(one) for one in right)
            now = _of_protocol(key[0], now)
            if key[1] == "dport":
                return replace(now, to_ports=spans_in_both(now.to_ports, spans))
            return replace(now, from_ports=spans_in_both(now.from_ports, spans))
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
        ports = span_of(told["port"]) if told.get("port") is not None else None
        address = told.get("addr")
        if address is None:
            if kind != "masquerade":
                raise NotUnderstood(f"its {kind} names no address")
            return Target(None, None, ports)
        networks = networks_of(address)
        return Target(networks[0].network_address, networks[-1].broadcast_address, ports)


def _key(left: Any) -> tuple[str, str]:
    if isinstance(left, dict) and isinstance(left.get("meta"), dict):
        return "meta", str(left["meta"].get("key", ""))
    if isinstance(left, dict) and isinstance(left.get("payload"), dict):
        told = left["payload"]
        return str(told.get("protocol", "")), str(told.get("field", ""))
    raise NotUnderstood("it matches by something else than interfaces, addresses and port numbers")


def _named(now: frozenset[str] | None, names: frozenset[str]) -> frozenset[str]:
    """Return the interfaces that two demands leave over."""
    both = names if now is None else names & now
    if not both:
        raise Never
    return both


def _of_protocol(protocol: str, now: Condition) -> Condition:
    if now.protocol not in (None, protocol):
        raise Never
    return replace(now, protocol=protocol)
