"""A learner's own choice in the place of a lab file's: each makes a variant of the lab."""

import re
from dataclasses import dataclass

import yaml

from ..addresses import Address, BadValue, Prefix, mask_length, parse_address, wildcard_length
from .nodes import scalars
from .port_names import put_ports

_FOUR, _SIX = r"\d{1,3}(?:\.\d{1,3}){3}(?![\w.])", r"[0-9A-Fa-f]{0,4}(?::[0-9A-Fa-f]{0,4}){2,7}(?![\w:.])"
_ADDRESS = re.compile(
    rf"(?<![\w.:])({_FOUR}|{_SIX})(/\d{{1,3}}|\s+(?:mask|wildcard)\s+{_FOUR})?", re.IGNORECASE | re.ASCII
)
_FIXED = frozenset({"given", "start", "free", "brief", "variables"})
"""The keys below which a learner's choice changes nothing: what is in place already, and what may be chosen."""


@dataclass(frozen=True, slots=True)
class OwnChoice:
    """Addresses by what is chosen in their place, and networks, whose addresses keep their place in them.

    An address that is chosen by itself goes before its network. ``ports`` are by device and port of the lab file the
    ports that are cabled in their place.
    """

    addresses: tuple[tuple[Address, Address], ...] = ()
    networks: tuple[tuple[Prefix, Prefix], ...] = ()
    ports: tuple[tuple[str, str, str], ...] = ()

    def __bool__(self) -> bool:
        return bool(self.addresses or self.networks or self.ports)

    def of(self, address: Address) -> Address:
        """Return what stands in the place of an address."""
        for own, other in self.addresses:
            if own == address:
                return other
        for network, moved in self.networks:
            if address.version == network.version and address in network:
                return moved[int(address) - int(network.network_address)]
        return address

    def put_into(self, root: yaml.Node) -> None:
        """Put what is chosen into every text of a lab file but those that are fixed, in place."""
        names: dict[str, dict[str, str]] = {}
        for device, port, other in self.ports:
            names.setdefault(device.lower(), {})[port.lower()] = other
        put_ports(root, names)
        for scalar in scalars(root, _FIXED):
            if "." in scalar.value or ":" in scalar.value:
                scalar.value = _ADDRESS.sub(self._written, scalar.value)

    def _written(self, found: re.Match[str]) -> str:
        try:
            address = parse_address(found[1])
            wide = self._is_wider(address, found[2])
        except BadValue:
            return found[0]
        return found[0] if wide else f"{self.of(address)}{found[2] or ''}"

    def _is_wider(self, address: Address, rest: str | None) -> bool:
        """Whether an address with its mask is a summary of more than a network that is chosen."""
        if rest is None:
            return False
        length = _length(rest)
        begins = int(address) & ((1 << max(address.max_prefixlen - length, 0)) - 1) == 0
        networks = (n for n, _ in self.networks if n.version == address.version and address in n)
        return begins and any(length < network.prefixlen for network in networks)


NOTHING_CHOSEN = OwnChoice()


def _length(text: str) -> int:
    """Read ``/24``, ``mask 255.255.255.0`` or ``wildcard 0.0.0.255``; raises :class:`BadValue`."""
    if text.startswith("/"):
        return min(int(text[1:]), 128)
    word, mask = text.split()
    return mask_length(mask) if word.lower() == "mask" else wildcard_length(mask)
