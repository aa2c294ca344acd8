"""What a sheet says that its device cannot have: ports that are not there, addresses on a switch."""

from collections.abc import Iterator

from ..sheet import Configuration, Diagnostic, Gateway, OnPort, Route, Severity
from .model import Device, Kind


def check_sheet(configuration: Configuration, device: Device) -> Iterator[Diagnostic]:
    """Compare a configuration with the topology of its device, line by line."""
    known = ", ".join(p.name for p in device.ports) or "none"
    loopbacks = {b.name.lower() for b in configuration.blocks("loopback")}

    def error(code: str, item: object, message: str) -> Diagnostic:
        line = getattr(getattr(item, "where", None), "line", 1)
        return Diagnostic(Severity.ERROR, code, line, 1, 1, message)

    for block in configuration.blocks("port"):
        header = configuration.header(block)
        if device.port(block.name) is None:
            yield error(
                "unknown-port", header, f"{device.name} has no port {block.name}; its ports: {known}."
            )
        elif block.name.lower() in loopbacks:
            yield error("name-twice", header, f"{block.name} is a port: a loopback needs another name.")
        if device.kind is Kind.SWITCH:
            for item in configuration.all(OnPort, block):
                yield error(
                    "address-on-switch-port",
                    item,
                    f"A switch has no address on a port; {block.name} only carries.",
                )
    for route in configuration.all(Route):
        port = route.statement.port
        if port is not None and device.port(port) is None and port.lower() not in loopbacks:
            yield error("unknown-port", route, f"{device.name} has no port {port}; its ports: {known}.")
    if device.forwards:
        for gateway in configuration.all(Gateway):
            yield Diagnostic(
                Severity.NOTE,
                "gateway-ignored",
                gateway.where.line if gateway.where else 1,
                1,
                1,
                f"{device.name} forwards: it has routes, and this gateway is ignored.",
            )
