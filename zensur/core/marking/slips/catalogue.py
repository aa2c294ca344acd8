"""The catalogue of slips. The first that fits an edit names it, so the most specific stand first."""

from collections.abc import Iterator
from dataclasses import replace

from ...lab import Lab
from ...sheet import AnyItem, OnPort
from ...sheet.statements import Advertise, Proxy, Relay
from ..differences.edits import Of
from .case import Case, Slip, is_said, mends, needs
from .made import MadeSlip, Making, left_out, other_values
from .of_addresses import OF_ADDRESSES
from .of_cables import OF_CABLES
from .of_links import OF_LINKS
from .of_routes import OF_ROUTES
from .of_servers import OF_SERVERS
from .of_sheets import OF_SHEETS
from .of_translation import OF_TRANSLATION

SLIPS: tuple[Slip, ...] = (
    *OF_CABLES,
    *OF_SHEETS,
    *OF_ADDRESSES,
    *OF_ROUTES,
    *OF_TRANSLATION,
    *OF_LINKS,
    *OF_SERVERS,
    Slip(
        "device-as-a-whole",
        "Device as a whole",
        mends(Of.DEVICE),
        lambda c: (
            f"No single line of {c.device} is what is wrong: several together do something else than planned."
        ),
        "Several statements of the device together do something else than planned.",
    ),
    Slip(
        "setting-missing",
        "Setting missing",
        lambda c: c.wanted is not None and c.found is None,
        lambda c: f"{needs(c)} is missing on {c.place}.",
        "A setting was not entered.",
        left_out(Proxy, Relay, Advertise),
    ),
    Slip(
        "setting-wrong",
        "Setting wrong",
        lambda c: c.wanted is not None,
        lambda c: f"{is_said(c)} has to be {needs(c)}.",
        "A setting has another value than planned.",
        other_values(Proxy, Relay, Advertise),
    ),
    Slip(
        "statement-where-none-should-be",
        "Statement where none should be",
        lambda c: True,
        lambda c: f"{is_said(c)} on {c.place} gets in the way.",
        "A statement that nobody asked for gets in the way.",
    ),
)


def name_slip(case: Case) -> Slip:
    """Return the first slip of the catalogue that fits."""
    return next(slip for slip in SLIPS if slip.fits(case))


def slips_in(lab: Lab) -> list[MadeSlip]:
    """Return every slip that can be made of what a lab's model answer adds to what is there before it."""
    return [slip for making in _makings(lab) for slip in _made_on(making)]


def _makings(lab: Lab) -> Iterator[Making]:
    for device, sheet in lab.full_paper.items():
        given = {(i.block, i.statement) for i in lab.base[device].items}
        added = tuple(i for i in sheet.configuration.items if (i.block, i.statement) not in given)
        yield Making(lab, device, added, sheet.text)


def _made_on(making: Making) -> Iterator[MadeSlip]:
    for slip in SLIPS:
        for made in slip.made(making):
            if not any(_is_free(making.lab, device, item) for device, item in made.put):
                yield replace(made, slips=made.slips | {slip.keyword})


def _is_free(lab: Lab, device: str, item: AnyItem) -> bool:
    """Whether an address is the learner's to choose, so that another one is no slip."""
    if not isinstance(item.statement, OnPort) or item.block is None:
        return False
    planned = (i.statement.interface.ip for i in lab.model[device].all(OnPort, item.block))
    return any(lab.leaves_free(device, item.block.port_name, ip) for ip in planned)
