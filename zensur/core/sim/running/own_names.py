"""Names of loopbacks in a learner's edition, where no model answer says what a name of the lab means.

Learners may name a loopback as they like. What the lab's pings name and the sheet does not have is then meant by what
the sheet has and the pings do not name: one by one in order, where there are as many of each.
"""

from collections.abc import Iterator

from ...lab import ExpectedPing, Lab
from ..network import Network


def own_name(network: Network, device: int, name: str) -> str:
    """Return what a device itself calls the port that the pings call ``name``; that name where it is not known."""
    lab, ports = network.wiring.lab, network.devices[device].ports
    known = {p.name.lower() for p in ports}
    if lab.answered or name.lower() in known:
        return name
    named = list(dict.fromkeys(_named(lab, network.wiring.names[device])))
    missing = [n for n in named if n not in known]
    spare = [p.name for p in ports if p.is_loopback and p.name.lower() not in named]
    renamed = dict(zip(missing, spare, strict=True)) if len(missing) == len(spare) else {}
    return renamed.get(name.lower(), name)


def _named(lab: Lab, device: str) -> Iterator[str]:
    """Yield the ports of a device that the lab's pings name, in their order."""
    for asked in lab.expected.values():
        if asked.source is not None and asked.sender.partition("/")[0] == device:
            yield asked.source.rpartition(":")[2].lower()
        if isinstance(asked, ExpectedPing) and asked.to.lower().startswith(f"{device.lower()}:"):
            yield asked.to.partition(":")[2].lower()
