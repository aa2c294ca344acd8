"""The topology with integers for devices and ports: worked out once for a lab, shared by all its networks."""

from ..lab import Kind, Lab, Medium

_VLAN = 1 << 32
_OWN = 1 << 60
_INSTANCE = 1 << 32


class Wiring:
    """Devices and physical ports of a lab, numbered in the order of the lab file.

    ``peer[p]`` is the port at the other end of the link, -1 where there is none; ``clock[p]`` the port
    that has to give the link its clock, -1 where none has to. Ports of one
    ``segment`` might reach one another over links and switches if all of them were up.
    """

    def __init__(self, lab: Lab) -> None:
        self.lab = lab
        self.names = tuple(lab.devices)
        self.device = {name.lower(): number for number, name in enumerate(self.names)}
        self.is_switch = [d.kind is Kind.SWITCH for d in lab.devices.values()]
        self.port_device: list[int] = []
        self.port_name: list[str] = []
        self.serial: list[bool] = []
        self.ports_of: list[dict[str, int]] = []
        for number, device in enumerate(lab.devices.values()):
            own: dict[str, int] = {}
            for port in device.ports:
                own[port.name.lower()] = len(self.port_device)
                self.port_device.append(number)
                self.port_name.append(port.name)
                self.serial.append(port.medium is Medium.SERIAL)
            self.ports_of.append(own)
        self.peer = [-1] * len(self.port_device)
        self.clock = [-1] * len(self.port_device)
        for link in lab.links:
            a = self.ports_of[self.device[link.a.device.lower()]][link.a.port.lower()]
            b = self.ports_of[self.device[link.b.device.lower()]][link.b.port.lower()]
            self.peer[a], self.peer[b] = b, a
            if link.clock is not None:
                self.clock[a] = self.clock[b] = a if link.clock == link.a else b
        self.segment = self._segments()
        self.in_segment: dict[int, list[int]] = {}
        for number, segment in enumerate(self.segment):
            self.in_segment.setdefault(segment, []).append(number)
        self.devices_in_segment = {
            segment: frozenset(self.port_device[p] for p in ports)
            for segment, ports in self.in_segment.items()
        }
        self.far_ends = [
            [(self.port_device[self.peer[p]], self.peer[p]) for p in own.values() if self.peer[p] >= 0]
            for own in self.ports_of
        ]
        """By device the ports at the other ends of its links, each with its device."""
        self.touching = [self._touching(device) for device in range(len(self.names))]

    @staticmethod
    def key_of(port: int, vlan: int) -> int:
        """Return the key of a physical port (VLAN 0), or of its sub-port for a VLAN."""
        return port + vlan * _VLAN

    @staticmethod
    def vlan_key(device: int, vlan: int) -> int:
        """Return the key of a switch's own interface in a VLAN."""
        return _OWN + device + vlan * _VLAN

    @staticmethod
    def node_of(device: int, instance: int) -> int:
        """Return the number of a device's network instance; the main one (0) has the device's own."""
        return device + instance * _INSTANCE

    @staticmethod
    def device_of_node(node: int) -> int:
        """Return the device of a network instance."""
        return node % _INSTANCE

    def device_of(self, key: int) -> int:
        """Return the device of a port, sub-port or VLAN interface."""
        number = key % _VLAN
        return number if key >= _OWN else self.port_device[number]

    def segment_of(self, key: int) -> int:
        """Return the segment of links in which frames from a port, sub-port or VLAN interface move."""
        number = key % _VLAN
        if key < _OWN:
            return self.segment[number]
        return next((self.segment[p] for p in self.ports_of[number].values()), -1)

    def _segments(self) -> list[int]:
        segment = [-1] * len(self.peer)
        for start in range(len(self.peer)):
            waiting = [start] if segment[start] < 0 else []
            while waiting:
                port = waiting.pop()
                if segment[port] < 0:
                    segment[port] = start
                    waiting += [self.peer[port]] if self.peer[port] >= 0 else []
                    if self.is_switch[self.port_device[port]]:
                        waiting += self.ports_of[self.port_device[port]].values()
        return segment

    def _touching(self, device: int) -> frozenset[int]:
        """Find the devices that share a segment with one, itself among them."""
        segments = {self.segment[port] for port in self.ports_of[device].values()}
        return frozenset(self.port_device[p] for c in segments for p in self.in_segment[c]) | {device}
