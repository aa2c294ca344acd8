"""A network as a shell script that builds it out of Linux network namespaces, with iproute2 and nftables alone.

Every node is a namespace, every link a pair of virtual Ethernet ends, every VLAN of a switch a bridge. Routes
are those that came out active; what was leased, advertised or learned is written down as what it came to.
"""

import re
from collections.abc import Iterable, Iterator

from ..formats.snapshot import COLLECT
from ..lab import Expected, ExpectedPing, Kind
from ..sim import Network, target, written
from ..sim.hardware import mac_of
from ..sim.numbers import SIX
from ..sim.ports import IpPort
from ..sim.routes import ActiveRoute
from .nftables import covered, ruleset
from .wires import End, Wires

SETTINGS = {
    "net/ipv4/conf/all/rp_filter": 0,
    "net/ipv4/conf/default/rp_filter": 0,
    "net/ipv4/conf/all/send_redirects": 0,
    "net/ipv4/conf/default/send_redirects": 0,
    "net/ipv4/conf/all/accept_redirects": 0,
    "net/ipv4/icmp_ratelimit": 0,
    "net/ipv4/icmp_ratemask": 0,
    "net/ipv6/conf/all/accept_redirects": 0,
    "net/ipv6/conf/default/accept_ra": 0,
    "net/ipv6/conf/default/accept_dad": 0,
    "net/ipv6/conf/default/addr_gen_mode": 1,
    "net/ipv6/icmp/ratelimit": 0,
}
"""What is set in every namespace; IPv6 addresses are all written down, none is formed by the kernel."""

_BEHIND_CONNECTED = 1000
"""In IPv6 the kernel's own connected routes have the metric 256."""
_HEAD = """\
#!/bin/sh
# The lab {title} as Linux network namespaces, made by Zensur.
# It needs root, iproute2 and nftables; the verb ping needs the command of that name.
#
#   sh FILE up                     build it
#   sh FILE ping                   the lab's own pings
#   sh FILE ping DEVICE ADDRESS    one ping
#   sh FILE snapshot               write what every device has into DEVICE.snapshot, which Zensur reads
#   sh FILE snapshot DEVICE        show what one device has
#   sh FILE down                   take it away
#
# A namespace is named after the lab and the device; ZENSUR_NAME in the environment is another name for the lab.
{learned}{left_out}
set -eu
lab=${{ZENSUR_NAME:-{ident}}}
devices='{devices}'

settings() {{  # DEVICE FORWARDS: what every device has in common
  ip netns exec "$lab-$1" sh -ec '
    cd /proc/sys
{settings}
    echo "$0" > net/ipv4/ip_forward
    echo "$0" > net/ipv6/conf/all/forwarding
  ' "$2"
}}

"""

_TAIL = """\
one_ping() {  # DEVICE ADDRESS
  printf '%s to %s: ' "$1" "$2"
  if ip netns exec "$lab-$1" ping -c 1 -W 2 "$2" >/dev/null 2>&1; then echo reply; else echo 'no reply'; fi
}

COLLECT
one_snapshot() {  # DEVICE: what it has, as Zensur reads it
  ip netns exec "$lab-$1" env ZENSUR_DEVICE="$1" sh "$0" collect
}

snapshots() {
  for device in $devices; do
    one_snapshot "$device" > "$device.snapshot"
    echo "$device.snapshot is written."
  done
}

down() {
  for device in $devices; do ip netns del "$lab-$device" 2>/dev/null || true; done
}

case ${1-} in
  up) down; up ;;
  ping) if [ $# -eq 3 ]; then one_ping "$2" "$3"; else pings; fi ;;
  snapshot) if [ $# -eq 2 ]; then one_snapshot "$2"; else snapshots; fi ;;
  collect) collect ;;
  down) down ;;
  *) echo "usage: sh $0 up | ping [DEVICE ADDRESS] | snapshot [DEVICE] | down" >&2; exit 2 ;;
esac
"""


def namespaces_script(network: Network, pings: Iterable[tuple[str, str]] = ()) -> str:
    """Return the script. ``pings`` are the lab's own, each from a node to an address."""
    lab = network.wiring.lab
    wires, names = Wires(network), namespace_names(network)
    left_out = "".join(f"# - {said}\n" for said in _left_out(network, wires))
    learned = _learned(network)
    head = _HEAD.format(
        title=re.sub(r"\s+", " ", lab.title or lab.id),
        ident=lab.id,
        devices=" ".join(names.values()),
        settings="\n".join(f"    echo {value} > {name}" for name, value in SETTINGS.items()),
        learned=f"#\n# Written down as it came out: what {', '.join(learned)} lease or learn.\n"
        if learned
        else "",
        left_out=f"#\n# Left out:\n{left_out}" if left_out else "",
    )
    up = ["up() {", '  for device in $devices; do ip netns add "$lab-$device"; done']
    up += [f"  settings {names[n]} {int(node.forwards)}" for n, node in network.nodes.items()]
    up += ["", "  # the links", "  ip -batch - <<END", *_links(wires, names), "END"]
    for number, node in network.nodes.items():
        kind = lab.devices[network.wiring.names[node.device]].kind
        up += ["", f"  # {node.name}, a {kind}"]
        up += [f"  ip -n \"$lab-{names[number]}\" -batch - <<'END'"]
        up += [*_node(network, number, wires), "END"]
        if kind is Kind.ROUTER or node.forwards:
            up += _proxies(network, number, wires, names[number])
        rules = network.rules(number)
        translated = ruleset(network, number, rules, lambda p: wires.name(p.node, p.name)) if rules else ""
        if translated:
            up += [f"  ip netns exec \"$lab-{names[number]}\" nft -f - <<'END'", translated, "END"]
    up += ["}", "", "pings() {"]
    up += [f"  one_ping {sender.replace('/', '.')} {address}" for sender, address in pings] or ["  :"]
    return head + "\n".join([*up, "}", "", _TAIL.replace("COLLECT\n", f"{COLLECT}\n")])


def own_pings(network: Network, model: Network, asked: Iterable[Expected]) -> list[tuple[str, str]]:
    """Return the pings that a command of the system can make, each from a node to an address.

    ``model`` says where devices are that pings are meant for.
    """
    return [
        (one.sender, written(address))
        for one in asked
        if isinstance(one, ExpectedPing)
        and one.source is None
        and one.out is None
        and (address := target(network, model, one.to, one.family)) is not None
        and network.find_node(one.sender) is not None
    ]


def namespace_names(network: Network) -> dict[int, str]:
    """Return the names of namespaces by node, without the lab's in front; an instance's has a dot for the slash."""
    return {number: node.name.replace("/", ".") for number, node in network.nodes.items()}


def _left_out(network: Network, wires: Wires) -> Iterator[str]:
    """Say what a plain kernel does otherwise, or not at all."""
    for a, b in sorted(wires.one_way):
        ends = [
            f"{network.wiring.names[network.wiring.port_device[p]]}:{network.wiring.port_name[p]}"
            for p in (a, b)
        ]
        yield f"{ends[0]} -- {ends[1]}: VLANs that pass one way only."
    for number, node in network.nodes.items():
        rules = network.rules(number)
        for rule, span in rules.rules if rules else ():
            if not rule.shared and span[0] != span[1]:
                yield f"{node.name}: {rule.text}: the kernel chooses an address by itself, and does not run out."
        if node.serving.services or node.serving.names:
            yield f"{node.name}: services and names."


def _learned(network: Network) -> list[str]:
    """Return the nodes that lease an address, or learn one or a route: all that is written down as it came out."""
    return [
        node.name
        for node in network.nodes.values()
        if any(p.asks_lease or p.asks_router for p in node.ports)
        or any(static.origin == "learned" for static in node.statics)
    ]


def _links(wires: Wires, names: dict[int, str]) -> Iterator[str]:
    for a, b in wires.pairs:
        yield (
            f"link add {a.name} netns $lab-{names[a.node]} type veth "
            f"peer name {b.name} netns $lab-{names[b.node]}"
        )


def _node(network: Network, number: int, wires: Wires) -> Iterator[str]:
    """Yield what is set up in one namespace, as ``ip -batch`` reads it."""
    ends = sorted({end for pair in wires.pairs for end in pair if end.node == number})
    yield "link set lo up"
    yield from _bridges(network, number)
    ports = {wires.name(p.node, p.name): p for p in network.nodes[number].ports}
    for end in ends:
        yield from _interface(network, end, ports.get(end.name))
    for port in network.up_ports(number):
        yield from _addresses(network, number, port, wires)
    for metric, route in enumerate(network.table(number).routes(), 1):
        if route.static is not None:
            yield _route(network, number, route, metric, wires)


def _bridges(network: Network, number: int) -> Iterator[str]:
    """Yield a bridge for each VLAN; the switch itself hears only where it has an address."""
    device = network.devices[network.wiring.device_of_node(number)]
    for vlan in sorted(device.declared):
        own = device.by_key.get(network.wiring.vlan_key(device.number, vlan))
        hears = own is not None and own.addresses and network.is_up(own)
        yield f"link add vlan{vlan} type bridge"
        yield f"link set vlan{vlan} up arp {'on' if hears else 'off'}"


def _interface(network: Network, end: End, port: IpPort | None) -> Iterator[str]:
    if end.bridge:
        yield f"link set {end.name} master {end.bridge}"
    elif port is None:  # what arrives here is dropped: the kernel is not to answer for the switch
        yield f"link set {end.name} arp off"
    else:
        yield f"link set {end.name} address {_mac(network, port)}"
        if (
            port.serial
        ):  # no neighbours: both ends bear one hardware address, so that each takes in what is sent
            yield f"link set {end.name} arp off"
    yield f"link set {end.name} {'up' if end.on else 'down'}"


def _mac(network: Network, port: IpPort) -> str:
    """Return the port's hardware address; a serial link has one for both ends."""
    wiring = network.wiring
    mac = port.mac
    if port.serial:
        first = min(port.port, wiring.peer[port.port])
        mac = mac_of(wiring.names[wiring.port_device[first]], wiring.port_name[first])
    return ":".join(f"{mac:012x}"[n : n + 2] for n in range(0, 12, 2))


def _addresses(network: Network, number: int, port: IpPort, wires: Wires) -> Iterator[str]:
    """Yield the addresses of a port; a loopback's answer for themselves alone, not for their prefix."""
    name = "lo" if port.is_loopback else wires.name(port.node, port.name)
    for own in port.addresses:
        six = own.address >= SIX
        if port.is_loopback:
            yield f"address add {written(own.address)}/{128 if six else 32} dev lo"
            if own.length < (128 if six else 32):
                yield f"route add unreachable {written(own.network)}/{own.length} metric 4000"
        elif six:
            yield f"address add {own.text} dev {name} nodad"
        else:
            yield f"address add {own.text} {'brd + ' if own.length < 31 else ''}dev {name}"
    rules = network.rules(number)
    if rules is not None and port.external:  # the addresses that it translates to are asked for on the link
        yield from (
            f"address add {written(a)}/32 dev {name}" for a in sorted(set(covered(network, rules, port)))
        )


def _route(network: Network, number: int, route: ActiveRoute, metric: int, wires: Wires) -> str:
    dest = f"{written(route.network)}/{route.length}"
    if route.network >= SIX:
        metric += _BEHIND_CONNECTED
    if route.out is None:
        return f"route add blackhole {dest} metric {metric}"
    said = f"route add {dest} "
    if route.ask is not None:
        said += f"via {written(route.ask)} "
    said += f"dev {wires.name(number, route.out.name)} {'onlink ' if route.ask is not None else ''}metric {metric}"
    source = network.source_for(number, route.out, route.network)
    if source is not None and not route.out.bears(source):
        said += f" src {written(source)}"  # the kernel would borrow another port's address
    return said


def _proxies(network: Network, number: int, wires: Wires, name: str) -> list[str]:
    """Let the ports that answer for others do so."""
    ports = [
        wires.name(p.node, p.name)
        for p in network.up_ports(number)
        if p.proxy and network.nodes[number].forwards and not p.is_loopback and not p.serial
    ]
    if not ports:
        return []
    return [
        f'  ip netns exec "$lab-{name}" sh -ec \'for port in {" ".join(ports)}; do '
        "echo 1 > /proc/sys/net/ipv4/conf/$port/proxy_arp; done'"
    ]
