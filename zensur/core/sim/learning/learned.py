"""What nodes learn from others: addresses of ports, routes, name servers."""

from dataclasses import dataclass, field, replace

from ..device import Node, StaticRoute
from ..ports import PortAddress

LEASED_ORDER, ADVERTISED_ORDER, LEARNED_ORDER = 1 << 20, 1 << 21, 1 << 22
"""Of routes equal in length and preference the sheet's own come first, then these in their order."""


@dataclass(slots=True)
class Learned:
    """Addresses by the keys of ports; routes and name servers by the numbers of nodes."""

    addresses: dict[int, list[PortAddress]] = field(default_factory=dict)
    routes: dict[int, list[StaticRoute]] = field(default_factory=dict)
    resolvers: dict[int, list[int]] = field(default_factory=dict)

    def concerns(self, node: Node) -> bool:
        """Whether a node learns anything."""
        own = any(port.key in self.addresses for port in node.ports)
        return own or node.number in self.routes or node.number in self.resolvers

    def taught(self, node: Node) -> Node:
        """Return the node with what it learns behind what its sheet says."""
        if not self.concerns(node):
            return node
        resolvers = (*node.serving.resolvers, *self.resolvers.get(node.number, ()))
        return replace(
            node,
            ports=tuple(
                replace(port, addresses=(*port.addresses, *self.addresses[port.key]))
                if port.key in self.addresses
                else port
                for port in node.ports
            ),
            statics=(*node.statics, *self.routes.get(node.number, ())),
            serving=replace(node.serving, resolvers=tuple(dict.fromkeys(resolvers))),
        )
