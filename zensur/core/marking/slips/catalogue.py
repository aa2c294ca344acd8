"""The catalogue of slips. The first that fits an edit names it, so the most specific stand first."""

from .case import Case, Slip, is_said, needs
from .of_addresses import OF_ADDRESSES
from .of_links import OF_LINKS
from .of_routes import OF_ROUTES
from .of_servers import OF_SERVERS
from .of_sheets import OF_SHEETS
from .of_translation import OF_TRANSLATION

SLIPS: tuple[Slip, ...] = (
    *OF_SHEETS,
    *OF_ADDRESSES,
    *OF_ROUTES,
    *OF_TRANSLATION,
    *OF_LINKS,
    *OF_SERVERS,
    Slip(
        "setting-missing",
        "Setting missing",
        lambda c: c.wanted is not None and c.found is None,
        lambda c: f"{needs(c)} is missing on {c.place}.",
        "A setting was not entered.",
    ),
    Slip(
        "setting-wrong",
        "Setting wrong",
        lambda c: c.wanted is not None,
        lambda c: f"{is_said(c)} has to be {needs(c)}.",
        "A setting has another value than planned.",
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
