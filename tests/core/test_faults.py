"""One statement lost or changed, at every place where there is one: the fault is that statement and no other."""

import random
from collections.abc import Iterator
from dataclasses import replace
from ipaddress import ip_interface, ip_network
from pathlib import Path

import pytest

from tests.helpers import paper_of
from zensur.core.lab import Lab, read_lab
from zensur.core.marking import Marker
from zensur.core.sheet import AnyItem, Configuration, Gateway, Masked, OnPort, Route, Switched, write_sheet
from zensur.demo import LABS, lab_text

TOLL_HOUSE = (Path(__file__).parents[1] / "labs" / "toll-house.lab.yaml").read_text("utf-8")
TEXTS = [*map(lab_text, LABS[:2]), TOLL_HOUSE]  # faults of other statements are not searched for yet
ALL = [lab for text in TEXTS if (lab := read_lab(text).lab) is not None]


def slips(configuration: Configuration) -> Iterator[tuple[str, AnyItem, AnyItem | None, set[str]]]:
    """Yield for every statement what a learner may have put in its place, and the slips that this may be."""
    for item in configuration.items:
        statement = item.statement
        if isinstance(statement, Switched):
            yield "left out", item, None, {"port-left-off"}
        elif isinstance(statement, OnPort):
            yield "left out", item, None, {"address-missing"}
            interface = statement.interface
            for length in (interface.network.prefixlen - 1, interface.network.prefixlen + 1):
                if length < 31:
                    other = replace(statement, masked=Masked(ip_interface(f"{interface.ip}/{length}")))
                    yield "other mask", item, replace(item, statement=other), {"wrong-mask"}
            far = replace(
                statement,
                masked=Masked(ip_interface(f"{interface.ip + 25600}/{interface.network.prefixlen}")),
            )
            yield "other octet", item, replace(item, statement=far), {"wrong-address"}
        elif isinstance(statement, Gateway):
            yield "left out", item, None, {"gateway-missing"}
            near = replace(item, statement=Gateway(statement.address + 1))
            yield "other gateway", item, near, {"gateway-wrong"}
            out = replace(item, statement=Gateway(statement.address + (1 << 22)))
            yield "gateway elsewhere", item, out, {"gateway-outside-the-network"}
        elif isinstance(statement, Route):
            gone = {"discard-missing"} if statement.discard else {"route-missing", "return-route-missing"}
            yield "left out", item, None, gone
            dest = statement.dest
            if statement.next_hop is not None:
                hop = replace(statement, next_hop=statement.next_hop + 1)
                yield (
                    "other hop",
                    item,
                    replace(item, statement=hop),
                    {"wrong-next-hop", "next-hop-is-the-device-itself"},
                )
            if dest.prefixlen:
                moved = ip_network((int(dest.network_address) + (8 << (32 - dest.prefixlen)), dest.prefixlen))
                put = replace(item, statement=replace(statement, dest=moved))
                # a discard for other addresses is no mistyped one: it is a missing one and a needless one
                yield (
                    "other network",
                    item,
                    put,
                    gone if statement.discard else {"route-to-the-wrong-network"},
                )


def makes_no_difference(lab: Lab, device: str, what: str, item: AnyItem) -> bool:
    """Over a serial link there is nothing to ask, so that any next hop on it leads to the other end."""
    return what == "other hop" and lab is ALL[2] and "10.64.255.2" in item.text()


@pytest.mark.parametrize("lab", ALL, ids=lambda lab: lab.id)
def test_every_single_slip_is_found_and_nothing_else(lab: Lab) -> None:
    marker, tried = Marker(lab), 0
    for device, sheet in lab.answer.items():
        for what, item, put, names in slips(sheet.configuration):
            changed = sheet.configuration.changed([item], [put] if put else [])
            result = marker.mark(paper_of(lab, {device: write_sheet(changed)}))
            if makes_no_difference(lab, device, what, item):
                assert result.score == result.out_of
                continue
            told = (what, device, item.text(), [(f.slip, f.device, f.repair) for f in result.faults])
            assert [(f.device, f.repair) for f in result.faults] == [
                (device, item.statement.plain().text())
            ], told
            (fault,) = result.faults
            assert fault.slip in names, told
            assert fault.direct > 0, told
            assert result.score < result.carried + fault.direct <= result.out_of + 1e-9, told
            tried += 1
    assert tried > 20


def test_two_slips_on_two_devices_are_both_found_and_nothing_else() -> None:
    chance = random.Random(7)
    for _ in range(60):
        lab = chance.choice(ALL[:2])
        changes, wanted = {}, set()
        for device in chance.sample(sorted(lab.answer), 2):
            own = lab.answer[device].configuration
            _, item, put, _ = chance.choice(list(slips(own)))
            changes[device] = write_sheet(own.changed([item], [put] if put else []))
            wanted.add((device, item.statement.plain().text()))
        result = Marker(lab).mark(paper_of(lab, changes))
        assert {(f.device, f.repair) for f in result.faults} == wanted
