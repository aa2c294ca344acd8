"""Cables that are missing, or in the wrong ports: what shares a port, or joins the same devices, is one mistake."""

from collections.abc import Iterable

from ...formats import CABLING_FILE
from ..reading.cabled import Links, WrongCables, as_planned, is_about, wrong_cables
from ..session import Session
from .edits import Edit, Of


def cable_edits(session: Session) -> tuple[list[Edit], list[Edit]]:
    """Return the edits of a paper's cables: those that put one that is missing, and those that only take away."""
    cabled, planned = session.sheets.cabled, session.lab.links
    if cabled.links == planned:
        return [], []
    needed: list[Edit] = []
    surplus: list[Edit] = []
    wrong_ones = wrong_cables(planned, cabled.links) if cabled.links else [WrongCables((), planned)]
    for wrong in wrong_ones:
        subjects = [
            i for i, _, c in session.facts.criteria if any(is_about(c, link) for link in wrong.missing)
        ]
        lines = [where for link in wrong.there if (where := cabled.line_of(link)) is not None]
        edit = Edit(
            CABLING_FILE,
            (),
            (),
            tuple(subjects),
            next(iter(lines), None),
            Of.CABLE,
            cables=(wrong.there, wrong.missing),
        )
        (needed if wrong.missing else surplus).append(edit)
    return needed, surplus


def recabled(links: Links, planned: Links, edits: Iterable[Edit]) -> Links:
    """Return how the devices are joined with the cables of some edits put right."""
    for edit in edits:
        there, missing = edit.cables
        links = (*(link for link in links if link not in there), *missing)
    return as_planned(links, planned)
