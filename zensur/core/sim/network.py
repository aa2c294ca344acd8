"""The network that a lab and one configuration per device make, with all that is advertised, leased and learned."""

from collections.abc import Mapping

from ..lab import Lab
from ..sheet import Configuration
from .device import CompiledDevice, compile_device
from .fabric import Fabric
from .learning.leases import Lease
from .learning.settling import settled
from .wiring import Wiring


class Network(Fabric):
    """The network that a set of configurations makes of a lab. It never changes.

    ``bare`` is the fabric before anything was advertised, leased or learned; ``leases`` were given.
    """

    bare: Fabric
    leases: tuple[Lease, ...] = ()

    @classmethod
    def of_lab(
        cls, lab: Lab, configurations: Mapping[str, Configuration], wiring: Wiring | None = None
    ) -> "Network":
        """Compile a lab with a configuration for every device."""
        wiring = wiring or Wiring(lab)
        bare = Fabric(
            wiring,
            [compile_device(wiring, device, configurations[name]) for name, device in lab.devices.items()],
        )
        return cls._settled(bare, bare)

    def with_device(self, name: str, configuration: Configuration) -> "Network":
        """Return the network with another configuration for one device, at the cost of that device."""
        return self.with_devices({name: configuration})

    def with_devices(self, changed: Mapping[str, Configuration]) -> "Network":
        """Return the network with other configurations for some devices, at the cost of these."""
        wiring, compiled = self.wiring, {}
        for name, configuration in changed.items():
            number = wiring.device[name.lower()]
            device = wiring.lab.devices[wiring.names[number]]
            compiled[number] = compile_device(wiring, device, configuration)
        return self.with_compiled_devices(compiled)

    def with_compiled_devices(self, changed: Mapping[int, CompiledDevice]) -> "Network":
        """Return the network with other devices, by number, that were compiled already, before they learn anything."""
        return self._settled(self.bare.with_compiled(changed), self)

    def freeze(self) -> None:
        """Work out all that is finite, and from now on keep nothing more: threads may share it."""
        super().freeze()
        self.bare.freeze()

    @classmethod
    def _settled(cls, bare: Fabric, like: Fabric) -> "Network":
        """Let a fabric settle; what is the same in another network of the lab is taken from there."""
        devices, leases = settled(bare)
        other = cls(bare.wiring, devices)
        other.bare, other.leases = bare, leases
        other.inherit(like)
        return other
