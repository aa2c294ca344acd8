"""What papers are handed in for, as it is named on the command line: a lab by its id, or a sitting by its number."""

from typing import TYPE_CHECKING

import click

from .inputs import unusable

if TYPE_CHECKING:
    from ..work.desk import Desk
    from ..work.occasion import Occasion

WHERE = click.argument("where")


def occasion_named(desk: "Desk", where: str, stage: str | None) -> "Occasion":
    """Return the occasion that is named; ends the program where there is none."""
    if where.isdecimal():
        sitting = desk.sittings.get(int(where)) if len(where) < 16 else None
        if sitting is None:
            unusable(f"There is no sitting {where}.")
        if stage:
            unusable("A sitting is of one stage: leave --stage out.")
        return desk.occasion_of(sitting)
    version = desk.labs.newest(where)
    if version is None:
        unusable(f"There is no lab {where}.")
    own = desk.lab(version, stage or "")
    if stage and own.stage != stage:
        known = ", ".join(s.stage for s in own.stages if s.stage) or "none"
        unusable(f"{where} has no stage {stage}; it has {known}.")
    return desk.occasion(version, own.stage)
