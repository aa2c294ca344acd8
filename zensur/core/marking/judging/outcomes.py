"""Criteria about pings and service checks."""

from ...lab import Criterion
from ...sheet import Where
from ...sim import AnyRun, Checked, Network, answered_by, ending, written
from ..result import Judged
from .attempt import Attempt
from .judge import Judge


def outcome(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Compare what came of a ping or check: half where only source seen or answering device are others."""
    ran = judge.run(criterion.id, attempt)
    result = ran.result
    wheres: dict[Where, None] = {}
    for step in result.steps:
        route = step.decision.route
        if route is not None and route.static is not None and route.where is not None:
            wheres[route.where] = None
    fraction = 1.0 if ran.as_expected else 0.5 if ran.outcome_fits else 0.0
    return Judged(fraction, ran.asked.expect, _came_of(attempt.network, ran), tuple(wheres))


def _came_of(network: Network, ran: AnyRun) -> str:
    """Say what came of a ping or check, and what is not right with an outcome that is."""
    result = ran.result
    if isinstance(ran, Checked):
        found = f"{ran.outcome.value}: {ran.detail}"
    elif result.reason is not None:
        found = f"{result.outcome.value}: {ending(network, result)}"
    else:
        found = result.outcome.value
    if result.duplicates:
        found = f"{found}, but an address on the way belongs to two devices"
    elif not ran.seen_as_fits and ran.outcome_fits and result.seen_as is not None:
        found = f"{found}, but {answered_by(network, result)} sees it as {written(result.seen_as)}"
    return found
