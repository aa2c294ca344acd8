"""Criteria about cabling, where learners hand in how they joined the devices."""

from collections.abc import Iterator

from ...lab import Criterion, CriterionKey, Lab, Link
from ...lab.criteria import text_of
from ...lab.known import device_of
from ...lab.shapes import At, Found
from ...lab.topology import read_link
from ..shapes import Judged
from .judging import Attempted, Judging


def link(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether a cable joins the very ports."""
    planned = next(p for p in session.lab.links if str(p) == criterion.operand)
    same = [k for k in attempt.links if k.is_same(planned)]
    near = [k for k in attempt.links if {*k.ends} & {*planned.ends}]
    return Judged(float(bool(same)), str(planned), _said(same or near), at=attempt.cables_at(same or near))


def joins(session: Judging, criterion: Criterion, attempt: Attempted) -> Judged:
    """Say whether two devices are joined, by cables of the model answer's media, whatever the ports; by share."""
    devices = frozenset(criterion.operand.split())
    planned = [p for p in session.lab.links if p.devices == devices]
    found = [k for k in attempt.links if k.devices == devices]
    left = [k.medium for k in found]
    met = 0
    for one in planned:
        if one.medium in left:
            left.remove(one.medium)
            met += 1
    required = f"{criterion.operand.replace(' ', ' and ')} joined"
    if len(planned) > 1:
        required += f" by {len(planned)} cables"
    return Judged(met / len(planned), required, _said(found), at=attempt.cables_at(found))


def _said(links: list[Link]) -> str:
    return "; ".join(map(str, links[:3])) or "no cable"


def _read_link(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    text, at, marks = text_of(key, found)
    asked = read_link(text, lab.devices, at)
    if not _is_asked(key, at, lab) or asked is None:
        return
    planned = next((p for p in lab.links if p.is_same(asked)), None)
    if planned is None:
        at.fail(f"{asked} is none of the lab's links.")
        return
    yield Criterion(key.word, "", str(planned), marks)


def _read_joins(key: CriterionKey, found: Found, lab: Lab) -> Iterator[Criterion]:
    text, at, marks = text_of(key, found)
    words = text.split()
    if len(words) != 2:
        at.fail(f"A {key.word} criterion names two devices, such as {key.such_as}.")
        return
    devices = [device_of(lab.devices, word, at) for word in words]
    names = [device.name for device in devices if device is not None]
    if not _is_asked(key, at, lab) or len(names) < 2:
        return
    if not any(p.devices == frozenset(names) for p in lab.links):
        at.fail(f"No link of the lab joins {names[0]} and {names[1]}.")
        return
    yield Criterion(key.word, "", " ".join(names), marks)


def _is_asked(key: CriterionKey, at: At, lab: Lab) -> bool:
    if not lab.asks_cabling:
        at.fail(f"{key.word} goes with cabling: asked, else learners hand in no cabling.")
    return lab.asks_cabling


CABLE_KEYS = ("link", "joins")
CABLES = (
    CriterionKey(
        word="link", about="DEVICE:PORT -- DEVICE:PORT: a cable joins these very ports", judge=link, read=_read_link,
        of_paper=True,
    ),
    CriterionKey(
        word="joins", about="DEVICE DEVICE: cables join them, whatever the ports, by share", judge=joins,
        read=_read_joins, of_paper=True, such_as="joins: weir sw1",
    ),
)  # fmt: skip
