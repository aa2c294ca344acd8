"""Whatever the sheets say: nothing raises, and what is told of every ping holds together."""

from dataclasses import replace
from functools import partial
from itertools import pairwise

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.core.networks import HOSTS, LAB, NETWORKS, SIXES
from tests.helpers import row
from zensur.core import sim
from zensur.core.lab import Expected, ExpectedPing, ExpectedService, Outcome
from zensur.core.sheet import STATEMENTS, Configuration, Sheet, read_sheet
from zensur.core.sim import Model, Network, Reason, Runs, Wiring, journey, ping, state
from zensur.core.sim.packets import TTL
from zensur.core.sim.running.outcomes import OutcomeCache
from zensur.core.sim.running.run_cache import RunCache
from zensur.core.sim.running.state_runs import StateRuns

WIRING = Wiring(LAB)
SENDERS = list(LAB.devices)
ASKED = st.lists(
    st.tuples(
        st.sampled_from(SENDERS),
        st.sampled_from([*SENDERS, *HOSTS, *SIXES])
        | st.sampled_from(["tcp r1:1", "udp a.example:2", "tcp h2:3"]),
        st.sampled_from([None, None, None, "p1", "lo0"]),
    ),
    min_size=1,
    max_size=8,
)


def configurations(sheets: dict[str, str]) -> dict[str, Configuration]:
    return {name: read_sheet(text, name).configuration for name, text in sheets.items()}


def expected(asked: list[tuple[str, str, str | None]]) -> dict[str, Expected]:
    found: dict[str, Expected] = {}
    for n, (sender, to, source) in enumerate(asked):
        if " " in to:
            found[str(n)] = ExpectedService(str(n), sender, "answer", source, open=to)
        else:
            found[str(n)] = ExpectedPing(str(n), sender, "reply", source, to=to, out="p1")
    return found


@settings(
    max_examples=250, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)
@given(NETWORKS, ASKED)
def test_what_is_told_holds_together(sheets, asked) -> None:
    network = Network.of_lab(LAB, configurations(sheets), WIRING)
    runs = Runs(network, network, expected(asked))
    state(network, runs)
    for ran in runs.values():
        row(network, ran)
        result = ran.result
        legs = journey(network, result)
        for way in ("there", "back", "error"):
            own = [leg for leg in legs if leg.way == way]
            assert len(own) <= TTL + 1
            for one, two in pairwise(own):
                assert one.arrives is not None
                assert (one.arrives.device, one.arrives.port) == (two.device, two.enters)
        if result.outcome is Outcome.REPLY:
            assert result.reason is None
            assert result.request is not None
            assert result.request.reason is None
            if result.answer is not None:
                assert result.answer.reason is None
                assert result.answer.node == result.sender
                assert result.answer.arrived.source == result.destination
        else:
            assert result.reason is not None
            assert result.by is not None  # every end names its place
            if legs and result.outcome is Outcome.TIMEOUT:
                assert any(leg.ended for leg in legs)
                ended = next(leg for leg in legs if leg.ended)
                assert ended.sentence.startswith(f"{ended.device} drops it: ")
        if result.reason is Reason.TTL:
            assert result.request is not None
            assert result.answer is None or len(result.answer.steps) <= TTL + 1


@settings(
    max_examples=120, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)
@given(NETWORKS, NETWORKS, st.sets(st.sampled_from(SENDERS), min_size=1, max_size=2), ASKED, st.booleans())
def test_compiling_some_devices_again_is_compiling_all(sheets, others, changed, asked, fresh) -> None:
    before = configurations(sheets)
    network = Network.of_lab(LAB, before, WIRING)
    listed = expected(asked)
    list(Runs(network, network, listed, fresh).values())  # so that there is something to take over
    new = {name: read_sheet(others[name], name).configuration for name in changed}
    again, whole = network.with_devices(new), Network.of_lab(LAB, before | new, WIRING)
    one, two = Runs(again, again, listed, fresh), Runs(whole, whole, listed, fresh)
    assert [row(again, r) for r in one.values()] == [row(whole, r) for r in two.values()]
    assert state(again, one) == state(whole, two)


@settings(
    max_examples=120, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)
@given(
    NETWORKS,
    st.lists(st.tuples(st.sampled_from(SENDERS), NETWORKS), min_size=1, max_size=6),
    ASKED,
    st.booleans(),
)
def test_what_is_recalled_is_what_would_be_run(sheets, steps, asked, alone) -> None:
    """A class is simulated with one cache, device after device otherwise: every run is as if there were no cache."""
    own = configurations(sheets)
    asked_by_id = {f"ping:{n}": one for n, one in expected(asked).items()}
    lab = replace(LAB, answer={name: Sheet(c, (), 0, "") for name, c in own.items()})
    lab.__dict__["expected"] = asked_by_id
    model = Model(lab)
    cache = RunCache(model)
    configured = [dict(lab.model)]
    for name, others in steps:
        other = read_sheet(others[name], name).configuration
        configured += [{**configured[-1], name: other}, {**lab.model, name: other}]
    for own in (*configured, *configured):
        state_of = tuple(cache.variant(n, c) for n, c in enumerate(own.values()))
        whole = Network.of_lab(lab, own, WIRING)
        compiled = partial(cache.network_of, state_of, cache.network, cache.model_state)
        recalled = StateRuns(cache, state_of, compiled, alone)
        anew = Runs(whole, model.network, asked_by_id, fresh=alone)
        for ident in asked_by_id:
            found, wanted = recalled.row(ident), sim.row(whole, anew[ident])
            assert found == wanted


@settings(
    max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)
@given(NETWORKS)
def test_a_matrix_is_all_its_pings(sheets) -> None:
    """What askers of an address share is worked out once; each outcome is that of the ping on its own."""
    plain = {
        name: "\n".join(line for line in text.split("\n") if not line.startswith("translate"))
        for name, text in sheets.items()
    }
    network = Network.of_lab(LAB, configurations(plain), WIRING)
    cache = OutcomeCache(network)
    for sender in network.nodes:
        for address in {a for node in network.nodes for a in network.own(node)}:
            assert cache.outcome(sender, address) is ping(network, sender, address).outcome


REVERSED = replace(LAB, devices=dict(reversed([*LAB.devices.items()])))
ORDER_DECIDES = ("address dhcp", "address auto", "rip", "proxy", "pool", "translate")


@settings(
    max_examples=80, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)
@given(NETWORKS, ASKED)
def test_the_order_of_devices_decides_nothing_else(sheets, asked) -> None:
    """Of two that answer for an address the first in the lab is taken; where only one does, order says nothing."""
    plain = {
        name: "\n".join(line for line in text.split("\n") if not line.strip().startswith(ORDER_DECIDES))
        + "\n".join(f"\nport {p.name}\n  proxy off" for p in LAB.devices[name].ports)
        for name, text in sheets.items()
    }
    one = Network.of_lab(LAB, configurations(plain), WIRING)
    two = Network.of_lab(REVERSED, configurations(plain))
    pings = {k: a for k, a in expected(asked).items() if isinstance(a, ExpectedPing)}
    for first, second in zip(Runs(one, one, pings).values(), Runs(two, two, pings).values(), strict=True):
        if not first.result.duplicates and not second.result.duplicates:
            assert row(one, first) == row(two, second)
            assert journey(one, first.result) == journey(two, second.result)


def test_every_statement_is_drawn() -> None:
    """The sheets drawn above hold every statement that the language has."""
    found: set[type] = set()

    @settings(
        max_examples=400,
        deadline=None,
        database=None,
        derandomize=True,
        suppress_health_check=list(HealthCheck),
    )
    @given(NETWORKS)
    def look(sheets) -> None:
        for configuration in configurations(sheets).values():
            found.update(type(item.statement) for item in configuration.items)

    look()
    assert set(STATEMENTS) <= found, set(STATEMENTS) - found
