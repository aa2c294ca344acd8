"""Criteria about pings and service checks."""

from collections.abc import Iterator

from ...lab import Criterion, CriterionKey, Lab
from ...lab.criteria import text_of
from ...lab.known import near
from ...lab.schema import MARKS
from ...lab.shapes import Found, Key
from ...sheet import AnyItem, Configuration
from ...sheet.statements import Advertised, Leased
from ...sim import AnyRun, Checked, answered_by, written
from ...sim.device import StaticRoute
from ..shapes import Judged
from .judging import Attempted, Judging, shown


def outcome(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Compare what came of a ping or check: half where only source seen or answering device are others."""
    ran = attempt.runs[criterion.id]
    fraction = 1.0 if ran.as_expected else 0.5 if ran.outcome_fits else 0.0
    found = _came_of(session, ran, attempt.detail(criterion.id))
    if fraction and session.circles(criterion.id, ran):
        fraction, found = 0.0, f"{found}: packets go round in a circle"
    return Judged(fraction, ran.asked.expect, found, shown(_routes_used(session, attempt, ran)))


def _routes_used(session: Judging, attempt: Attempted, ran: AnyRun) -> Iterator[AnyItem | None]:
    """Yield the lines behind the routes that decided on the way, as the learner has them."""
    for step in ran.result.steps:
        route = step.decision.route
        if route is not None and route.static is not None:
            name = session.wiring.names[session.wiring.device_of_node(step.node)]
            yield _behind(route.static, attempt.configurations[name])


def _behind(route: StaticRoute, learner: Configuration) -> AnyItem | None:
    """Return the statement that makes a route, or that asks to be told one."""
    if not isinstance(route.source, str):
        return learner.like(route.source)
    if route.origin == "learned":
        return next((learner.header(block) for block in learner.blocks("rip")), None)
    block = learner.bearer(route.port or "")
    return learner.one(Leased if route.origin == "leased" else Advertised, block) if block else None


def _came_of(session: Judging, ran: AnyRun, detail: str) -> str:
    """Say what came of a ping or check, and what is not right with an outcome that is."""
    result = ran.result
    if isinstance(ran, Checked):
        found = f"{ran.outcome.value}: {detail}"
    else:
        found = f"{result.outcome.value}: {detail}" if result.reason is not None else result.outcome.value
    if result.duplicates:
        return f"{found}, but an address on the way belongs to two devices"
    if not ran.seen_as_fits and ran.outcome_fits and result.seen_as is not None:
        return f"{found}, but {answered_by(session.network, result)} sees it as {written(result.seen_as)}"
    return found


def _one(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    """Read the id of a ping or check."""
    text, at, marks = text_of(key, found)
    listed = [p.id for p in (lab.pings if key.word == "ping" else lab.services)]
    if text not in listed:
        at.fail(f"There is no {key.word} {text[:40]}.{near(text, listed)}")
    yield Criterion(key.word, "", text, marks)


def _all(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    """Read that all pings, or all checks, are asked for."""
    word, listed = ("ping", lab.pings) if key.word == "pings" else ("check", lab.services)
    yield from (Criterion(word, "", one.id, found.get("each", 1.0)) for one in listed)


_EACH = {"each": Key(MARKS, "what each ping or check earns, with pings and services")}

OUTCOMES = (
    CriterionKey(
        word="ping", about="the id of a ping that has to end as expected", judge=outcome, read=_one,
        of_run=True, of_network=True,
    ),
    CriterionKey(
        word="check", about="the id of a service check that has to end as expected", judge=outcome, read=_one,
        of_run=True, of_network=True,
    ),
    CriterionKey(
        word="pings", about="every ping of the stage", judge=outcome, read=_all, values=("all",), further=_EACH
    ),
    CriterionKey(
        word="services", about="every service check of the stage", judge=outcome, read=_all, values=("all",),
        further=_EACH,
    ),
)  # fmt: skip
