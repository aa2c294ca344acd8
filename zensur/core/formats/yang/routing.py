"""Static routes, gateways and RIP: ietf-routing (RFC 8349), ietf-rip (RFC 8695).

A list of static routes has one route to each destination; a second to the same one stands in a second protocol instance
(RFC 8349, 5.3). Preferences, and which default route is a gateway, stand in our module.
"""

from collections.abc import Iterator

from ...addresses import Address
from ...sheet import DEFAULT_V4, DEFAULT_V6, Block, Configuration, Gateway, Item, Open, Route
from ...sheet.statement import folded
from ...sheet.statements import Announce
from ...sheet.statements.routing import RIP as RIP_BLOCK
from ...sheet.statements.routing import Passive, Run
from ..tree import Members
from .modules import OWN, RIP, ROUTES, ROUTING, is_identity
from .node import Node
from .reading import Reading

_PREFERENCE, _GATEWAY = f"{OWN}:preference", f"{OWN}:gateway"
_ROUTE = frozenset(("destination-prefix", "description", "next-hop", _PREFERENCE, _GATEWAY))
_SPECIAL = ("blackhole", "unreachable", "prohibit", "receive")
_LIKE_DISCARD = {
    "unreachable": "which tells the sender that the host is unreachable",
    "prohibit": "which tells the sender that it is not allowed",
    "receive": "which takes the packets in",
}

# --- reading -----------------------------------------------------------------------------------------


def read_routing(root: Node, reading: Reading, instance: str | None) -> None:
    """Read the control plane protocols of the device, or of a network instance."""
    routing = root.child(f"{ROUTING}:routing")
    for protocol in routing.child("control-plane-protocols").children("control-plane-protocol"):
        kind = protocol.word("type") or ""
        if is_identity(kind, "static"):
            for version in (4, 6):
                family = protocol.child("static-routes").child(f"{ROUTES[version]}:ipv{version}")
                for route in family.children("route"):
                    _read_route(route, reading, instance)
        elif is_identity(kind, "ripv2") or protocol.has(f"{RIP}:rip"):
            _read_rip(protocol, reading, instance)
        elif not is_identity(kind, "direct"):
            protocol.note(
                "not-read", f"Nothing of the protocol {kind[:60] or '(none)'} is read: static routes and RIPv2 are.",
                "type",
            )  # fmt: skip


def _read_route(route: Node, reading: Reading, instance: str | None) -> None:
    route.only(_ROUTE)
    if not route.has("destination-prefix"):
        route.fail("missing-key", "A route needs its destination-prefix.")
        return
    refused, dest = reading.refused, route.prefix("destination-prefix")
    hop, where = route.child("next-hop"), route.where("destination-prefix")
    special = hop.one_of("special-next-hop", _SPECIAL)
    if hop.has("next-hop-list"):
        listed = list(hop.child("next-hop-list").children("next-hop"))
        if len(listed) > 1:
            hop.note("first-next-hop", "Of several next hops the first is read.", "next-hop-list")
        hop = listed[0] if listed else hop
    address, port = hop.address("next-hop-address"), hop.name("outgoing-interface")
    preference = route.number(_PREFERENCE, 1, 255)
    is_gateway = _is_gateway(route, reading, dest in (DEFAULT_V4, DEFAULT_V6))
    if dest is None or reading.refused > refused:
        return
    if special in _LIKE_DISCARD:
        hop.note(
            "like-discard", f"{special} is read as discard, {_LIKE_DISCARD[special]}; discard says nothing.",
            "special-next-hop",
        )  # fmt: skip
    elif special is None and address is None and port is None:
        route.fail("next-hop-missing", f"The route to {dest} needs its next hop.", "next-hop")
        return
    if address is not None and address.version != dest.version:
        hop.fail(
            "wrong-family",
            f"{address} is no next hop to {dest}, which is of the other family.",
            "next-hop-address",
        )
        return
    if address is not None and is_gateway:
        reading.keep(None, Gateway(address, port, instance), where, route)
        return
    about = route.text("description")
    reading.keep(
        None, Route(dest, address, port, preference or 10, instance, about), where, route
    )  # fmt: skip


def _is_gateway(route: Node, reading: Reading, is_default: bool) -> bool:
    """Whether a default route is the gateway of a device that does not forward."""
    said = route.flag(_GATEWAY)
    if said is not None:
        return said and is_default
    if not is_default or route.has(_PREFERENCE) or any(on for _, on, _ in reading.forwards):
        return False  # what forwards would ignore its gateway
    if reading.kind is not None:
        return reading.kind != "router"
    return bool(reading.forwards)


def _read_rip(protocol: Node, reading: Reading, instance: str | None) -> None:
    block = Block(RIP_BLOCK, "", instance)
    rip = protocol.child(f"{RIP}:rip")
    reading.keep(block, Open(), protocol.where("type"))
    for entry in rip.child("interfaces").children("interface"):
        port = entry.name("interface")
        if port is None:
            continue
        where, refused = entry.where("interface"), reading.refused
        deaf, passive = entry.empty("no-listen"), entry.empty("passive")
        if reading.refused > refused:
            continue
        if not (deaf and passive):
            reading.keep(block, Run(port), where, entry)
        if passive:
            reading.keep(block, Passive(port), where, entry)
    default = rip.child("originate-default-route")
    if default.flag("enabled"):
        reading.keep(block, Announce("default"), default.where("enabled"), default)
    redistributed = rip.child("redistribute")
    if redistributed.present("static"):
        reading.keep(block, Announce("static"), redistributed.where("static"), rip)


# --- writing -----------------------------------------------------------------------------------------


def write_routing(configuration: Configuration, instance: str | None) -> Members:
    """Return the control plane protocols of the device, or of a network instance."""
    own = folded(instance)
    lists: list[dict[int, list[Members]]] = []
    for version, entry in _routes(configuration, own):
        taken = (
            held for held in lists
            if entry["destination-prefix"] not in (r["destination-prefix"] for r in held.get(version, []))
        )  # fmt: skip
        found = next(taken, None)
        if found is None:
            found = {}
            lists.append(found)
        found.setdefault(version, []).append(entry)
    protocols: list[Members] = [
        {
            "type": f"{ROUTING}:static",
            "name": "static" if number == 1 else f"static-{number}",
            "static-routes": {f"{ROUTES[v]}:ipv{v}": {"route": held[v]} for v in sorted(held)},
        }
        for number, held in enumerate(lists, 1)
    ]
    block = Block(RIP_BLOCK, "", instance)
    if configuration.header(block) is not None:
        protocols.append({"type": f"{RIP}:ripv2", "name": "rip", f"{RIP}:rip": _rip(configuration, block)})
    if not protocols:
        return {}
    return {f"{ROUTING}:routing": {"control-plane-protocols": {"control-plane-protocol": protocols}}}


def _routes(configuration: Configuration, instance: str | None) -> Iterator[tuple[int, Members]]:
    gateways: tuple[Item[Gateway], ...] = configuration.all(Gateway)
    for gateway in gateways:
        said = gateway.statement
        if folded(said.instance) == instance:
            dest = DEFAULT_V4 if said.address.version == 4 else DEFAULT_V6
            hop = _next_hop(said.address, said.port)
            yield dest.version, {"destination-prefix": str(dest), "next-hop": hop, _GATEWAY: True}
    for item in configuration.all(Route):
        route = item.statement
        if folded(route.instance) != instance:
            continue
        entry: Members = {"destination-prefix": str(route.dest)}
        if route.about is not None:
            entry["description"] = route.about
        hop = {"special-next-hop": "blackhole"} if route.discard else _next_hop(route.next_hop, route.port)
        entry["next-hop"] = hop
        if route.preference != 10:
            entry[_PREFERENCE] = route.preference
        if route.next_hop is not None and route.dest in (DEFAULT_V4, DEFAULT_V6):
            entry[_GATEWAY] = False
        yield route.dest.version, entry


def _next_hop(address: Address | None, port: str | None) -> Members:
    hop: Members = {} if port is None else {"outgoing-interface": port}
    return hop if address is None else hop | {"next-hop-address": str(address)}


def _rip(configuration: Configuration, block: Block) -> Members:
    run = {i.statement.port.lower(): i.statement.port for i in configuration.all(Run, block)}
    passive = {i.statement.port.lower(): i.statement.port for i in configuration.all(Passive, block)}
    said: Members = {}
    announced = {i.statement.what for i in configuration.all(Announce, block)}
    if "default" in announced:
        said["originate-default-route"] = {"enabled": True}
    if "static" in announced:
        said["redistribute"] = {"static": {}}
    entries: list[Members] = []
    for key, name in (run | passive).items():
        entry: Members = {"interface": name}
        if key not in run:
            entry["no-listen"] = [None]
        if key in passive:
            entry["passive"] = [None]
        entries.append(entry)
    return said | ({"interfaces": {"interface": entries}} if entries else {})
