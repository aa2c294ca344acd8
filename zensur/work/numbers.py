"""Seats of a sitting, each with numbers of its own for the lab's variables."""

import csv
import io
from collections.abc import Mapping, Sequence
from dataclasses import replace

from ..core.formats import harmless
from ..core.lab.variables import draw_values
from ..core.sittings import Learner
from ..store import NOBODY, By, Seat, Sitting
from .desk import Desk


def seat_newcomers(
    desk: Desk, sitting: Sitting, newcomers: Sequence[tuple[str, Learner]], by: By = NOBODY
) -> Sitting:
    """Give learners a seat, with the title of their group, and draw their numbers; who has a seat keeps it.

    The members of a team have the same numbers.
    """
    lab = desk.lab(desk.labs.version(sitting.version), sitting.stage)
    new = [(g, own) for g, own in newcomers if all(s.learner.code != own.code for s in sitting.seats)]
    taken = {seat.holder: seat.drawn for seat in sitting.seats}
    seats = [Seat(learner=own, group=group, drawn={}) for group, own in new]
    drawn = draw_values(lab.id, sitting.secret, [seat.holder for seat in seats], lab.variables, taken)
    if seats:
        own = [replace(seat, drawn=drawn[seat.holder]) for seat in seats]
        desk.sittings.seat(sitting.id, own, by, _told(own))
    found = desk.sittings.get(sitting.id)
    assert found is not None
    return found


def why_not(desk: Desk, sitting: Sitting, seat: Seat, drawn: Mapping[str, int]) -> str:
    """Say why a seat cannot have other numbers or another team; nothing where it can."""
    occasion = desk.occasion_of(sitting)
    if desk.papers.all(occasion.scope, seat.holder):
        return f"{seat.learner.name} has handed in already: team and numbers stay as they are."
    variables = occasion.lab.variables
    for name, value in drawn.items():
        if name not in variables:
            return f"The lab has no variable {name[:40]}."
        if not variables[name].low <= value <= variables[name].high:
            return f"{name} goes from {variables[name].low} to {variables[name].high}, and is not {value}."
    missing = [name for name in variables if name not in drawn]
    return f"{missing[0]} has no value." if missing else ""


def reseat(
    desk: Desk, sitting: Sitting, seat: Seat, team: str, drawn: Mapping[str, int], by: By = NOBODY
) -> None:
    """Give a learner another team and other numbers; who comes to a team has the numbers of the team."""
    moved = replace(seat, learner=replace(seat.learner, team=team), drawn=dict(drawn))
    others = [own for own in sitting.seats if own.learner.code != seat.learner.code]
    mates = [own for own in others if team and own.learner.team == team]
    if team == seat.learner.team:
        changed = [moved, *(replace(own, drawn=moved.drawn) for own in mates)]
    else:
        changed = [replace(moved, drawn=mates[0].drawn) if mates else moved]
    desk.sittings.seat(sitting.id, changed, by, _told(changed))


MOST_TOLD = 5


def _told(seats: Sequence[Seat]) -> str:
    """Say who has which team and numbers, as far as that is short."""
    said = []
    for seat in seats[:MOST_TOLD]:
        numbers = [f"{name} {value}" for name, value in seat.drawn.items()]
        team = [f"team {seat.learner.team}"] if seat.learner.team else []
        said.append(", ".join([seat.learner.name, *team, *numbers]))
    more = [f"and {len(seats) - MOST_TOLD} more"] if len(seats) > MOST_TOLD else []
    return "; ".join([*said, *more])


def numbers_csv(sitting: Sitting) -> str:
    """Write the numbers of a sitting's learners as the CSV that ``--values`` reads: learner, variable, value."""
    stream = io.StringIO(newline="")
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow(["learner", "variable", "value"])
    for seat in sitting.seats:
        for name, value in seat.drawn.items():
            writer.writerow([harmless(seat.learner.code), name, value])
    return stream.getvalue()
