"""Where and why a ping ended, in one sentence, with the line of the sheet that is to blame where there is one."""

from ...sheet import Where
from ..device import StaticRoute
from ..network import Network
from ..numbers import same_network, written
from ..packets import Carried, Reason
from ..ping import Ping


def ending(network: Network, result: Ping) -> str:
    """Say how a ping ended: which way, where, and what was missing there."""
    name = network.name
    if result.reason is None:
        return f"{name(result.request.node)} answers" if result.request else "answers"
    sender = name(result.sender)
    if result.request is None:
        if result.reason is Reason.PORT_DOWN:
            return f"{sender} cannot send: its port is down"
        if not result.destination:
            return f"{sender} cannot send: what it asks for has no address here"
        return f"{sender} cannot send: it has no address to send from"
    if result.seen_as is not None and result.answer is not None:
        return f"the request arrives, the answer ends at {_there(network, result.answer, result.reason)}"
    sentence = _there(network, result.request, result.reason)
    lost = result.answer if result.request.error else None
    if lost is not None and lost.reason is not None:
        return f"it ends at {sentence}; the error about it is lost at {_there(network, lost, lost.reason)}"
    if result.request.error and lost is None and len(result.request.steps) > 1:
        return f"it ends at {sentence}, which has no way to say so"
    return f"it ends at {sentence}"


def _there(network: Network, carried: Carried, reason: Reason) -> str:
    return f"{network.name(carried.node)}: {why(network, carried, reason)}"


_WHY = {
    Reason.NO_ROUTE: "no route to {to}",
    Reason.NO_NEIGHBOUR: "nobody on {out} answers for {asked}",
    Reason.OTHER_VLAN: "{asked} is cabled to {out}, and in another VLAN",
    Reason.TTL: "the packet goes round in a loop until its TTL is used up",
    Reason.DISCARD: "a discard covers {to}",
    Reason.NOT_FORWARDING: "it does not forward, and {to} is not its own address",
    Reason.NOT_AN_ADDRESS: "{to} is no device's address there",
    Reason.OWN_SOURCE: "it comes back to where its source address belongs",
    Reason.OTHER_SOURCE: "the answer comes from {source}, which was not asked",
    Reason.NO_SESSION: "{to} is an address that it translates to, and no session or mapping fits",
    Reason.POOL_EMPTY: "no address or number is left to translate {source} to",
    Reason.BEYOND_SCOPE: "{source} is a link-local address, which is never forwarded",
    Reason.DUPLICATE_ADDRESS: "it has the address {to} too",
    Reason.NO_SOURCE: "it has no address to send from",
    Reason.PORT_DOWN: "the port is down",
}
"""Why a packet ended, with the addresses and the port that it is about."""


def why(network: Network, carried: Carried, reason: Reason) -> str:
    """Say why a packet ended where it did."""
    step = carried.steps[-1]
    to = written(carried.arrived.destination)
    source = written(carried.arrived.source)
    decision = step.decision
    out = decision.route.out.name if decision.route and decision.route.out else ""
    asked = written(decision.ask) if decision.ask is not None else to
    sentence = _WHY[reason].format(to=to, source=source, asked=asked, out=out)
    cause = blame(network, step.node, carried.arrived.destination if reason is Reason.NO_ROUTE else None)
    return sentence + (f" ({cause[0]})" if cause else "")


def blame(network: Network, node: int, address: int | None) -> tuple[str, Where | None] | None:
    """Find why a node has no route to an address: a port that is down, or a route that is not active."""
    if address is None:
        return None
    down = _down_port(network, node, address)
    if down is not None:
        return down
    for static in network.nodes[node].statics:
        if same_network(address, static.network, static.length) and not static.discard:
            return f"{static.text} is not active: {why_inactive(network, node, static)}", static.where
    return None


def _down_port(network: Network, node: int, address: int) -> tuple[str, Where | None] | None:
    for port in network.nodes[node].ports:
        down = network.why_down(port)
        if down and any(same_network(address, a.address, a.length) for a in port.addresses):
            return f"{port.name} is down: {down}", port.where
    return None


def why_inactive(network: Network, node: int, static: StaticRoute) -> str:
    """Say why a static route of a node is not active."""
    next_hop = static.next_hop
    if static.port is not None:
        own = network.devices[network.wiring.device_of_node(node)].ports
        port = next((p for p in own if p.name.lower() == static.port), None)
        if port is None:
            return f"the device has no port {static.port}"
        if port.node != node:
            return f"{port.name} is in another network instance"
        return f"{port.name} is down: {network.why_down(port)}"
    if next_hop is None:
        return "its port is down"
    if next_hop in network.own(node):
        return f"{written(next_hop)} is the device's own address"
    down = _down_port(network, node, next_hop)
    return down[0] if down else "there is no way to its next hop"
