"""Criteria about routes and gateways: by effect, and where it is asked for by form."""

from ipaddress import ip_network

from ...addresses import Prefix
from ...lab import Criterion
from ...sheet import AnyItem, Configuration, Gateway, Item, Route, write_destination
from ...sheet.statement import folded
from ..result import Judged
from .attempt import Attempt
from .effects import gateway_is_right
from .judge import Judge
from .shown import lines_of


def route(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Compare where packets to a destination go; half for another form, or the right way for too much."""
    name, node = criterion.device, judge.node(criterion)
    learner, model = attempt.configurations[name], judge.lab.model[name]
    classes = judge.classes(criterion)
    dest = ip_network(criterion.operand)

    def own(configuration: Configuration) -> list[Item[Route]]:
        folded_instance = criterion.instance.lower()
        return [
            i for i in configuration.all(Route) if (i.statement.instance or "").lower() == folded_instance
        ]

    wanted = [i for i in own(model) if i.statement.dest == dest]
    wrong: int | None = None
    for configuration in judge.arranged(name, attempt, classes.reaches):
        network = judge.alone(name, configuration)
        wrong = classes.wrong(network) if network.find_node(criterion.node) == node else 1
        if not wrong:
            break
    concerned = [i for i in own(learner) if classes.reaches(i.statement)]
    exact = [i for i in concerned if i.statement.dest == dest]
    covering = [i for i in concerned if i.statement.dest.prefixlen < dest.prefixlen]
    if wrong is None:  # the model never uses this route: there is nothing but its text to compare
        wrong = not any(_same_way(i.statement, w.statement) for i in exact for w in wanted)
    fraction = 0.0 if wrong else 1.0
    if wrong and any(_same_way(i.statement, w.statement) for i in covering for w in wanted):
        fraction = 0.5  # the right way for too many addresses, hidden by another route for some
    if criterion.form is not None and not any(
        _in_form(i.statement, w.statement, criterion.form) for i in exact for w in wanted
    ):
        fraction = min(fraction, 0.5)  # the right neighbour, said in another form
    if criterion.preference is not None and all(
        i.statement.preference != criterion.preference for i in exact
    ):
        fraction = min(fraction, 0.5)  # the right way, with another preference
    shown = exact or covering or ([] if not wrong else concerned)
    return Judged(
        fraction,
        wanted[0].statement.plain().text(),
        "; ".join(i.statement.plain().text() for i in shown[:3]) or _no_route(dest),
        lines_of(shown),
    )


def gateway(judge: Judge, criterion: Criterion, attempt: Attempt) -> Judged:
    """Say whether the gateway is any address of the model's gateway on that link, however it is written."""
    name, node, six = criterion.device, judge.node(criterion), criterion.operand == "6"
    learner, model = attempt.configurations[name], judge.lab.model[name]
    right = any(
        network.find_node(criterion.node) == node
        and gateway_is_right(network, judge.model.network, node, six)
        for network in (judge.alone(name, c) for c in judge.arranged(name, attempt))
    )

    def own(configuration: Configuration) -> list[AnyItem]:
        return [
            i
            for i in configuration.all(Gateway)
            if (i.statement.address.version == 6) is six
            and (i.statement.instance or "").lower() == criterion.instance.lower()
        ]

    items, wanted = own(learner), own(model)
    required, found = ([i.statement.address for i in c if isinstance(i.statement, Gateway)] for c in (wanted, items))  # fmt: skip
    if not right and required and required == found:
        right = True  # the model's own gateway does not answer: there is nothing but its text to compare
    defaults = [
        r for r in learner.all(Route)
        if r.statement.dest.prefixlen == 0 and (r.statement.dest.version == 6) is six
    ]  # fmt: skip
    lines = lines_of(items) or lines_of(defaults)
    said = ", ".join(map(str, found)) or ("a default route" if lines else "no gateway")
    return Judged(float(right), ", ".join(map(str, required)), said, lines)


def _no_route(dest: Prefix) -> str:
    return "no default route" if dest.prefixlen == 0 else f"no route to {write_destination(dest)}"


def _same_way(a: Route, b: Route) -> bool:
    return (a.next_hop, a.port) == (b.next_hop, b.port)


def _in_form(found: Route, wanted: Route, form: str) -> bool:
    """Say whether a route to the same destination has the form asked for, with the model's next hop or port."""
    same_hop, same_port = found.next_hop == wanted.next_hop, folded(found.port) == folded(wanted.port)
    if form == "any":
        return (
            (found.next_hop is not None and same_hop)
            or (found.port is not None and same_port)
            or (found.discard and wanted.discard)
        )
    return found.form == form and (same_hop or form == "out") and (same_port or form == "via")
