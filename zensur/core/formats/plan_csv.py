"""The address plan as CSV (RFC 4180): device, port, address, mask, gateway."""

import csv
import io

from ..addresses import mask_of
from ..lab import Lab
from ..sheet import Gateway, OnPort
from .spreadsheet import harmless

HEADS = ("device", "port", "address", "mask", "gateway")


def plan_csv(lab: Lab) -> str:
    """Write the address plan of the model answer; what a spreadsheet would take for a formula is kept from it."""
    stream = io.StringIO()
    writer = csv.writer(stream)
    writer.writerow(HEADS)
    for name, model in lab.model.items():
        gateways = {g.statement.address.version: str(g.statement.address) for g in model.all(Gateway)}
        for block in model.bearers():
            for item in model.all(OnPort, block):
                held = item.statement.interface
                four = held.version == 4
                mask = mask_of(held.network.prefixlen) if four else f"/{held.network.prefixlen}"
                gateway = "" if lab.devices[name].forwards else gateways.get(held.version, "")
                writer.writerow([harmless(name), harmless(block.port_name), held.ip, mask, gateway])
    return stream.getvalue()
