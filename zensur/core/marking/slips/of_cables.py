"""Slips in cabling, where learners hand in how they joined the devices."""

from ..differences.edits import Of
from .case import Case, Slip


def _is_cable(case: Case) -> bool:
    return case.edit.of is Of.CABLE


def _nothing(case: Case) -> bool:
    """Whether no cabling was handed in at all."""
    return _is_cable(case) and not case.session.sheets.cabled.links


def _joined(case: Case) -> str:
    """Name the devices that a missing cable joins."""
    return " and ".join(sorted(case.edit.cables[1][0].devices)) if case.edit.cables[1] else ""


def _which_way(case: Case) -> str:
    """Say whether a cable joins the right devices."""
    there, missing = case.edit.cables
    joins = any(there[0].devices == link.devices for link in missing)
    return (
        f"The cable {there[0]} joins {'the right devices by a wrong port' if joins else 'the wrong devices'}."
    )


OF_CABLES: tuple[Slip, ...] = (
    Slip(
        "cabling-missing",
        "Cabling missing",
        _nothing,
        lambda c: (
            "No cable was handed in, so that nothing reaches anything: links.cabling says which ports are joined."
        ),
        "How the devices are joined was not handed in.",
    ),
    Slip(
        "cable-missing",
        "Cable missing",
        lambda c: _is_cable(c) and not c.edit.cables[0],
        lambda c: f"No cable joins {_joined(c)}.",
        "Two devices that have to be joined are not.",
    ),
    Slip(
        "cable-in-the-wrong-port",
        "Cable in the wrong port",
        lambda c: _is_cable(c) and bool(c.edit.cables[1]),
        _which_way,
        "A cable ends in another port, or at another device, than planned.",
    ),
    Slip(
        "cable-where-none-should-be",
        "Cable where none should be",
        _is_cable,
        lambda c: f"{c.edit.cables[0][0]} joins what should not be joined.",
        "A cable joins what should not be joined.",
    ),
)
