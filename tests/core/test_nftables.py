"""Rules of nftables: a small interpreter of their own, packet by packet, against what is read of them."""

import random
from collections.abc import Iterator
from ipaddress import IPv4Address, ip_address, ip_network
from typing import Any, NamedTuple

import pytest

from zensur.core.formats.snapshot.networks import Never, all_networks, in_both, spans_in_both
from zensur.core.formats.snapshot.nftables import Condition, Refused, Translation, translations_in
from zensur.core.formats.snapshot.wording import words_of
from zensur.core.sheet import Where

PORTS = ("p1", "p2", "p3")
HOSTS = tuple(f"10.1.0.{n}" for n in range(1, 9))
NETS: tuple[Any, ...] = (
    *HOSTS, {"prefix": {"addr": "10.1.0.0", "len": 30}}, {"prefix": {"addr": "10.1.0.4", "len": 31}},
    {"range": ["10.1.0.2", "10.1.0.5"]},
)  # fmt: skip
NUMBERS: tuple[Any, ...] = (1, 2, 3, 4, {"range": [2, 3]}, {"range": [1, 4]})
OUTSIDE = tuple(f"203.0.113.{n}" for n in range(1, 5))


class Packet(NamedTuple):
    """What a rule may ask of a packet."""

    iifname: str
    oifname: str
    saddr: str
    daddr: str
    protocol: str
    dport: int
    sport: int

    def value(self, left: dict[str, Any]) -> Any:
        """What stands where a match looks; None where it has no such thing."""
        if "concat" in left:
            return tuple(self.value(part) for part in left["concat"])
        if "meta" in left:
            return self.protocol if left["meta"]["key"] == "l4proto" else getattr(self, left["meta"]["key"])
        of, field = left["payload"]["protocol"], left["payload"]["field"]
        return getattr(self, field) if of in ("ip", self.protocol) else None


PACKETS = [
    Packet(i, o, s, d, protocol, n, 9)
    for i, o, s, d, protocol, n in (
        (PORTS[k % 3], PORTS[k // 3 % 3], HOSTS[k % 8], HOSTS[k * 5 // 3 % 8], ("tcp", "udp", "icmp")[k * 7 // 5 % 3], k % 5)
        for k in range(120)
    )
]  # fmt: skip


# --- the interpreter: as nft(8) says, one rule after the other ---------------------------------------


def fits(element: Any, value: Any) -> bool:
    if isinstance(value, tuple):
        return all(fits(*pair) for pair in zip(element["concat"], value, strict=True))
    if value is None:
        return False
    if isinstance(element, dict) and "prefix" in element:
        return ip_address(value) in ip_network(f"{element['prefix']['addr']}/{element['prefix']['len']}")
    if isinstance(element, dict) and "range" in element:
        low, high = element["range"]
        if isinstance(value, int):
            return bool(low <= value <= high)
        return IPv4Address(low) <= IPv4Address(value) <= IPv4Address(high)
    return bool(element == value)


class Ruleset:
    """A table with its chains and sets."""

    def __init__(self, hook: str, chains: dict[str, list[list[Any]]], sets: dict[str, list[Any]]) -> None:
        self.hook, self.chains, self.sets = hook, chains, sets

    def listed(self, told: Any) -> list[Any]:
        if isinstance(told, str) and told.startswith("@"):
            return self.sets[told[1:]]
        return told["set"] if isinstance(told, dict) and "set" in told else [told]

    def looked_up(self, mapped: dict[str, Any], packet: Packet) -> Any:
        pairs = self.listed(mapped["data"])
        return next((value for key, value in pairs if fits(key, packet.value(mapped["key"]))), None)

    def holds(self, match: dict[str, Any], packet: Packet) -> bool:
        value = packet.value(match["left"])
        if value is None:  # the packet has no such field, which ends a rule whatever is asked of it
            return False
        return any(fits(e, value) for e in self.listed(match["right"])) is not (match["op"] == "!=")

    def verdict(self, kind: str, told: Any, packet: Packet) -> dict[str, Any] | None:
        """What a part orders, with what it looks up; None where a map has nothing for the packet."""
        if kind == "vmap":
            found: dict[str, Any] | None = self.looked_up(told, packet)
            return found
        if kind not in ("snat", "dnat", "masquerade"):
            return {kind: told}
        address, number = (told or {}).get("addr"), (told or {}).get("port")
        if isinstance(address, dict) and "map" in address:
            address = self.looked_up(address["map"], packet)
            if address is None:
                return None
        if isinstance(address, dict) and "concat" in address:
            address, number = address["concat"]
        return {"to": (address, number)}

    def run(self, chain: str, packet: Packet) -> tuple[str, Any] | None:
        """What becomes of a packet in a chain; None where nothing does and it goes on behind the jump."""
        for rule in self.chains[chain]:
            for part in rule:
                ((kind, told),) = part.items()
                if kind == "counter" or (kind == "match" and self.holds(told, packet)):
                    continue
                verdict = None if kind == "match" else self.verdict(kind, told, packet)
                if verdict is None:
                    break
                ((what, where),) = verdict.items()
                found = self.run(where["target"], packet) if what == "jump" else (what, where)
                if what == "return":
                    return None
                if found is not None:
                    return found
        return None

    def entries(self) -> Iterator[tuple[dict[str, Any], Where]]:
        """The same as nft --json lists it."""
        table = {"family": "ip", "table": "t"}
        for name, elements in self.sets.items():
            yield {"map" if elements and isinstance(elements[0], list) else "set": {**table, "name": name, "elem": elements}}, Where("", 1)  # fmt: skip
        base = {"type": "nat", "hook": self.hook, "prio": 0}
        for name in self.chains:
            yield {"chain": {**table, "name": name, **(base if name == "base" else {})}}, Where("", 1)
        for name, chain in self.chains.items():
            for rule in chain:
                yield {"rule": {**table, "chain": name, "expr": rule}}, Where("", 1)


# --- made-up rulesets --------------------------------------------------------------------------------


def keyed(words: str) -> dict[str, Any]:
    keys = [
        {"meta": {"key": one}} if " " not in one else {"payload": dict(zip(("protocol", "field"), one.split(), strict=True))}
        for one in words.split(" . ")
    ]  # fmt: skip
    return keys[0] if len(keys) == 1 else {"concat": keys}


VALUES = {
    "iifname": PORTS,
    "oifname": PORTS,
    "ip saddr": NETS,
    "ip daddr": NETS,
    "tcp dport": NUMBERS,
    "udp dport": NUMBERS,
}


def a_match(by: str, chance: random.Random, op: str = "==") -> dict[str, Any]:
    parts = by.split(" . ")
    one = [chance.choice(VALUES[part]) for part in parts]
    several = [
        {"concat": [chance.choice(VALUES[part]) for part in parts]} if len(parts) > 1 else chance.choice(VALUES[parts[0]])
        for _ in range(chance.randrange(1, 4))
    ]  # fmt: skip
    single = {"concat": one} if len(parts) > 1 else one[0]
    right = single if chance.random() < 0.5 else {"set": several}
    return {"match": {"op": op, "left": keyed(by), "right": right}}


def a_map(by: str, values: tuple[Any, ...], chance: random.Random) -> dict[str, Any]:
    """A map whose keys do not overlap, as nft has them."""
    singles = [v for v in VALUES[by] if not isinstance(v, dict)]
    keys = chance.sample(singles, chance.randrange(1, min(4, len(singles)) + 1))
    return {"key": keyed(by), "data": {"set": [[key, chance.choice(values)] for key in keys]}}


def a_rule(hook: str, jumps: bool, chance: random.Random) -> list[Any]:
    rule: list[Any] = []
    if hook == "postrouting":
        rule.append(a_match("oifname", chance))
        asked = chance.sample(["ip saddr", "ip saddr", "iifname", "oifname . ip saddr"], chance.randrange(3))
        rule += [
            a_match(by, chance, "!=" if by == "ip saddr" and chance.random() < 0.4 else "==") for by in asked
        ]
        verdicts: list[Any] = [
            {"masquerade": None}, {"snat": {"addr": chance.choice(OUTSIDE)}},
            {"snat": {"addr": {"map": a_map("ip saddr", OUTSIDE, chance)}}},
        ]  # fmt: skip
        goes = [{"jump": {"target": "side"}}] if jumps else [{"return": None}]
        verdicts += [{"vmap": a_map("ip saddr", tuple(goes), chance)}, *goes]
        if chance.random() < 0.3:
            rule = [
                m
                for m in rule
                if m["match"]["left"] in (keyed("oifname"), keyed("ip saddr")) and m["match"]["op"] == "=="
            ]
            verdicts = [{"return": None}, {"accept": None}]
    else:
        asked = chance.sample(
            ["ip daddr", "ip daddr", "iifname", "iifname", "tcp dport", "udp dport"], chance.randrange(1, 4)
        )
        rule += [a_match(by, chance) for by in asked]
        verdicts = [
            {"dnat": {"addr": chance.choice(OUTSIDE)}},
            {"dnat": {"addr": {"map": a_map("tcp dport", OUTSIDE, chance)}}},
            {"dnat": {"addr": {"map": a_map("tcp dport", tuple({"concat": [a, 8]} for a in OUTSIDE), chance)}}},
        ]  # fmt: skip
        verdicts += [{"jump": {"target": "side"}}] if jumps else []
    if chance.random() < 0.2:
        rule.insert(chance.randrange(len(rule) + 1), {"counter": {"packets": 1, "bytes": 2}})
    return [*rule, chance.choice(verdicts)]


def a_ruleset(seed: int) -> Ruleset:
    chance = random.Random(seed)
    hook = chance.choice(("postrouting", "postrouting", "prerouting"))
    base = [a_rule(hook, True, chance) for _ in range(chance.randrange(1, 4))]
    side = [a_rule(hook, False, chance) for _ in range(chance.randrange(1, 3))]
    sets = {"named": chance.sample(NETS, 2)}
    for rule in base:
        for part in rule:
            if chance.random() < 0.2 and part.get("match", {}).get("left") == keyed("ip saddr"):
                part["match"]["right"] = "@named"
    return Ruleset(hook, {"base": base, "side": side}, sets)


def is_for(condition: Condition, packet: Packet) -> bool:
    """Whether a condition that was read holds for a packet."""
    source, dest = IPv4Address(packet.saddr), IPv4Address(packet.daddr)
    within = (
        (condition.enters, packet.iifname), (condition.leaves, packet.oifname), (condition.protocol, packet.protocol),
    )  # fmt: skip
    spans = ((condition.to_ports, packet.dport), (condition.from_ports, packet.sport))
    return (
        all(
            asked is None or value in ((asked,) if isinstance(asked, str) else asked)
            for asked, value in within
        )
        and (condition.permitted is None or any(source in n for n in condition.permitted))
        and not any(source in n for n in condition.denied)
        and (condition.dest is None or any(dest in n for n in condition.dest))
        and all(asked is None or any(low <= value <= high for low, high in asked) for asked, value in spans)
    )


def test_what_is_read_translates_every_packet_as_its_rules_do() -> None:
    understood = translated = 0
    for seed in range(2_500):
        ruleset = a_ruleset(seed)
        read = list(translations_in(list(ruleset.entries())))
        if any(isinstance(one, Refused) for one in read):
            continue  # told, and not simulated
        understood += 1
        for packet in PACKETS:
            ran = ruleset.run("base", packet)
            wanted = ran[1] if ran is not None and ran[0] == "to" else None
            first = next(
                (t for t in read if isinstance(t, Translation) and is_for(t.condition, packet)), None
            )
            found = None
            if first is not None:
                number = first.target.ports[0] if first.target.ports else None
                found = (str(first.target.first) if first.target.first else None, number)
            assert found == wanted, (seed, packet, ruleset.chains, ruleset.sets)
            translated += wanted is not None
    assert understood > 500
    assert translated > 5_000


def test_an_accept_behind_a_jump_of_all_but_some_is_told() -> None:
    """Whoever did not jump is not let go, which no list of sources says."""
    out = {"match": {"op": "==", "left": keyed("oifname"), "right": "p2"}}
    jump = [
        out,
        {"match": {"op": "!=", "left": keyed("ip saddr"), "right": "10.1.0.7"}},
        {"jump": {"target": "side"}},
    ]
    accept = [{"match": {"op": "==", "left": keyed("ip saddr"), "right": NETS[8]}}, {"accept": None}]
    ruleset = Ruleset("postrouting", {"base": [jump, [out, {"masquerade": None}]], "side": [accept]}, {})
    told = [one for one in translations_in(list(ruleset.entries())) if isinstance(one, Refused)]
    assert [(one.words, one.why) for one in told] == [
        ("ip saddr 10.1.0.0/30 accept", "it lets packets go by other than their source")
    ]
    inside = Packet("p1", "p2", "10.1.0.7", "10.1.0.1", "icmp", 0, 0)
    assert ruleset.run("base", inside) == ("to", (None, None))
    assert ruleset.run("base", inside._replace(saddr="10.1.0.1")) == ("accept", None)


# --- demands that are made twice ---------------------------------------------------------------------


def some_nets(chance: random.Random) -> list[str]:
    return [
        f"10.0.{chance.randrange(4) * 64}.0/{chance.choice((17, 18, 22, 24, 26))}"
        for _ in range(chance.randrange(1, 5))
    ]


def test_two_demands_leave_over_what_is_in_both() -> None:
    chance = random.Random(3)
    for _ in range(300):
        some, others = (
            all_networks([str(ip_network(n, strict=False)) for n in some_nets(chance)]) for _ in range(2)
        )
        wanted = {a for a in range(0, 65_536, 61) if all(any(IPv4Address((10 << 24) + a) in n for n in own) for own in (some, others))}  # fmt: skip
        try:
            both = in_both(some, others)
        except Never:
            both = ()
        assert {
            a for a in range(0, 65_536, 61) if any(IPv4Address((10 << 24) + a) in n for n in both)
        } == wanted
        spans = [
            (min(pair), max(pair))
            for pair in (chance.sample(range(1, 40), 2) for _ in range(chance.randrange(2, 7)))
        ]
        one, other = tuple(spans[:2]), tuple(spans[2:]) or ((1, 9),)
        try:
            left = spans_in_both(one, other)
        except Never:
            left = ()
        assert {n for low, high in left for n in range(low, high + 1)} == {
            n for n in range(1, 40) if all(any(low <= n <= high for low, high in own) for own in (one, other))
        }
    assert in_both(None, some) == some


@pytest.mark.parametrize(
    ("rule", "words"),
    [
        ([a_match("ip saddr", random.Random(1), "!=")], "ip saddr != "),
        ([{"dnat": {"addr": {"map": a_map("tcp dport", OUTSIDE[:1], random.Random(2))}}}], "dnat addr tcp dport map { "),
        ([{"match": {"op": "==", "left": keyed("oifname . ip saddr"), "right": "@crew"}}], "oifname . ip saddr @crew"),
        ([{"masquerade": None}], "masquerade"),
    ],
)  # fmt: skip
def test_a_rule_is_told_in_its_own_words(rule: list[Any], words: str) -> None:
    assert words_of(rule).startswith(words)
