"""A node's translations as nftables rules, and what a Linux kernel does otherwise."""

from collections.abc import Callable, Iterator

from ..sim import Network, written
from ..sim.ports import IpPort
from ..sim.translating import ActiveMapping, Rule, Rules

MOST_ALIASES = 1024
Named = Callable[[IpPort], str]
"""How a port is called in the kernel."""


def covered(network: Network, rules: Rules, port: IpPort) -> Iterator[int]:
    """Yield the addresses translated to that lie in a network of an external port and are not its own."""
    if all(p.external is not False for p in network.up_ports(port.node)):
        return
    spans = [(s.outside, s.outside) for s in rules.active_mappings if is_inward(network, port.node, s)]
    for first, last in [*spans, *(span for _, span in rules.rules)]:
        for own in port.four:
            low, high = own.network, own.network | ((1 << (32 - own.length)) - 1)
            for address in range(max(first, low), min(last, high, max(first, low) + MOST_ALIASES) + 1):
                if not port.bears(address):
                    yield address


def ruleset(network: Network, node: int, rules: Rules, named: Named) -> str:
    """Return the rules of a node as ``nft -f`` reads them."""
    ports = network.up_ports(node)
    inside = [named(p) for p in ports if p.external is False]
    outside = [named(p) for p in ports if p.external]
    if not inside or not outside:
        return ""
    own = set(network.own(node))
    external = {p.name.lower(): named(p) for p in ports if p.external}

    def crossing(port: str | None) -> str:
        return f"iifname {_set(inside)} oifname {_set(outside if port is None else [external[port]])}"

    mappings = [a for a in rules.active_mappings if a.mapping.port is None or a.mapping.port in external]
    dynamic = [r for r in rules.rules if r[0].port is None or r[0].port in external]
    lines = ["table ip zensur {"]
    for number, (rule, span) in enumerate(dynamic):
        lines += [f"  chain from{number} {{", *(f"    {line}" for line in _dynamic(rule, span)), "  }"]
    lines += ["  chain inward {", "    type nat hook prerouting priority dstnat;"]
    for active in mappings:
        if is_inward(network, node, active):
            by = outside if active.mapping.port is None else [external[active.mapping.port]]
            lines.append(f"    iifname {_set(by)} {_inward(active)}")
    lines += ["  }", "  chain outward {", "    type nat hook postrouting priority srcnat;"]
    lines += [f"    {crossing(active.mapping.port)} {_outward(active)}" for active in mappings]
    lines += [f"    {crossing(rule.port)} jump from{n}" for n, (rule, _) in enumerate(dynamic)]
    lines += ["  }", "  chain refused {", "    type filter hook prerouting priority -50;"]
    translated = [span for span in _merged(rules.spans) if not (span[0] == span[1] and span[0] in own)]
    if translated:
        spans = ", ".join(_span(*span) for span in translated)
        mine = ", ".join(written(a) for a in sorted(own) if a < 1 << 32)
        to = f"ip daddr {{ {spans} }} ip daddr != {{ {mine} }} drop"
        lines += [f"    iifname {_set(outside)} {to}", "  }"]
        lines += [
            "  chain turned {",
            "    type filter hook forward priority filter;",
            f"    {crossing(None)} {to}",
            "  }",
        ]
        lines += ["  chain standing_in {", "    type filter hook input priority filter;"]
        lines.append(f"    iifname {_set(inside)} {to}")
    return "\n".join([*lines, "  }", "}"])


def is_inward(network: Network, node: int, active: ActiveMapping) -> bool:
    """Whether the way to a mapping's inside leaves by an internal port, so that it is translated inward."""
    route = network.table(node).find(active.mapping.inside)
    return route is not None and route.out is not None and route.out.external is False


def _inward(active: ActiveMapping) -> str:
    mapping = active.mapping
    to = f"ip daddr {written(active.outside)}"
    if mapping.protocol is None:
        return f"{to} dnat to {written(mapping.inside)}"
    return (
        f"{to} {mapping.protocol} dport {mapping.outside_number} "
        f"dnat to {written(mapping.inside)}:{mapping.inside_number}"
    )


def _outward(active: ActiveMapping) -> str:
    mapping = active.mapping
    source = f"ip saddr {written(mapping.inside)}"
    if mapping.protocol is None:
        return f"{source} snat to {written(active.outside)}"
    return (
        f"{source} {mapping.protocol} sport {mapping.inside_number} "
        f"snat to {written(active.outside)}:{mapping.outside_number}"
    )


def _dynamic(rule: Rule, span: tuple[int, int]) -> Iterator[str]:
    """Yield the lines of a dynamic rule: its list in order, each line left or translated."""
    if rule.shared:  # the kernel would spread over all addresses; Zensur begins with the first
        low, high = rule.numbers
        to = f"meta l4proto {{ icmp, tcp, udp }} snat to {written(span[0])}:{low}-{high}"
    else:
        to = f"snat to {_span(*span)} persistent"
    for line in rule.who:
        if line.network < 1 << 32:
            yield f"ip saddr {written(line.network)}/{line.length} {to if line.permits else 'return'}"


def _set(names: list[str]) -> str:
    return "{ " + ", ".join(f'"{name}"' for name in names) + " }"


def _span(first: int, last: int) -> str:
    return written(first) if first == last else f"{written(first)}-{written(last)}"


def _merged(spans: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Join spans that overlap or touch: a set of nftables takes no address twice."""
    found: list[tuple[int, int]] = []
    for first, last in sorted(spans):
        if found and first <= found[-1][1] + 1:
            found[-1] = (found[-1][0], max(found[-1][1], last))
        else:
            found.append((first, last))
    return found
