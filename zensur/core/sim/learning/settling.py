"""How a fabric comes to rest: advertisements, learned routes, leases, and learned routes again.

What is learned is compiled into the devices, as if their sheets had said it: addresses of ports, routes,
name servers. So everything that follows knows only one kind of each.
"""

from dataclasses import replace

from ..device import CompiledDevice
from ..fabric import Fabric
from .advertisements import advertised
from .learned import Learned
from .leases import Lease, give_leases
from .rip import learn_routes


def settled(bare: Fabric) -> tuple[list[CompiledDevice], tuple[Lease, ...]]:
    """Return the devices with all that they learn, and the leases given; the same devices where there is nothing."""
    ports = [port for device in bare.devices for port in device.ports]
    fabric = bare
    if any(port.advertises for port in ports):
        fabric = _with(fabric, advertised(fabric))
    leases: tuple[Lease, ...] = ()
    if any(port.asks_lease for port in ports):
        leases, learned = give_leases(_with(fabric, learn_routes(fabric)))
        fabric = _with(fabric, learned)
    return _with(fabric, learn_routes(fabric)).devices, leases


def _with(fabric: Fabric, learned: Learned) -> Fabric:
    """Return the fabric with what was learned compiled into its devices."""
    changed = {}
    for number, device in enumerate(fabric.devices):
        if any(learned.concerns(node) for node in device.nodes):
            changed[number] = replace(device, nodes=tuple(learned.taught(node) for node in device.nodes))
    return fabric.with_compiled(changed) if changed else fabric
