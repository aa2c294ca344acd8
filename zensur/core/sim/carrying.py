"""Which VLANs a switch's port carries, and with which tag (IEEE 802.1Q)."""

from dataclasses import dataclass

from ..sheet import Block, Configuration, VlanSet
from ..sheet.statements import Access, Trunk

UNTAGGED = 0
NONE = VlanSet(())


@dataclass(frozen=True, slots=True)
class Carrying:
    """A port is of one VLAN (``access``), or carries those allowed tagged and the native one untagged."""

    access: int | None = 1
    allowed: VlanSet = NONE
    native: int | None = None

    def tag_of(self, vlan: int) -> int | None:
        """Return the tag with which frames of a VLAN leave, 0 for none; None where it is not carried."""
        if self.access is not None:
            return UNTAGGED if vlan == self.access else None
        if vlan == self.native:
            return UNTAGGED
        return vlan if vlan in self.allowed else None

    def vlan_of(self, tag: int) -> int | None:
        """Return the VLAN that a frame with a tag comes into; None where it is dropped."""
        if self.access is not None:
            return self.access if tag == UNTAGGED else None
        if tag == UNTAGGED:
            return self.native
        return tag if tag == self.native or tag in self.allowed else None


def carrying_of(configuration: Configuration, port: str) -> Carrying:
    """Compile how a port carries VLANs; without a word it is an access port of VLAN 1."""
    block = Block("port", port)
    access, trunk = configuration.one(Access, block), configuration.one(Trunk, block)
    if trunk is not None:
        return Carrying(None, trunk.statement.vlans, trunk.statement.native)
    return Carrying(access.statement.vlan) if access is not None else Carrying()


def declared_of(configuration: Configuration) -> frozenset[int]:
    """Return the VLANs that a switch knows: 1, and those it declares."""
    return frozenset((1, *(int(block.name) for block in configuration.blocks("vlan"))))
