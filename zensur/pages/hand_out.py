"""The learner's edition as a page: brief, weave, address plan, what is in place, targets."""

from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

from markdown_it import MarkdownIt
from markdown_it.token import Token

from ..core.formats import given_sheets, shown_prefixes, targets
from ..core.lab import EMPTY, Expected, ExpectedPing, ExpectedService, FreeNetwork, FreePort, Lab
from ..core.sim import Network
from ..core.weave import Knot, weave
from .environment import TEMPLATES

_MARKDOWN = MarkdownIt("commonmark", {"html": False}).enable("table")


def _no_picture(tokens: Sequence[Token], number: int, options: object, env: object) -> str:
    """Say what a picture shows in its place: a page that stands alone loads nothing from elsewhere."""
    said = escape(tokens[number].content)
    return f"<em>(a picture{f': {said}' if said else ''}, left out)</em>"


_MARKDOWN.renderer.rules["image"] = _no_picture  # type: ignore[attr-defined]


@dataclass(frozen=True, slots=True)
class _Row:
    """A network of the weave: its name, its prefix where the lab names it, and its knots by column."""

    name: str
    prefix: str
    serial: bool
    knots: list[Knot | None]


def hand_out_page(lab: Lab, nonce: str = "") -> str:
    """Return the learner's edition as one HTML page; ``nonce`` lets its style pass a content policy.

    Nothing on it is taken from the model answer but the names of networks that the lab file itself
    gives them: host parts are those of the sheets that learners may read.
    """
    chart = weave(lab, Network.of_lab(lab, lab.model))
    readable = {name: EMPTY if name in lab.hidden else blank for name, blank in lab.blank.items()}
    blank = weave(lab, Network.of_lab(lab, readable))
    given = {(blank.columns[k.column].device, k.ports): k for k in blank.knots}
    named = {n.name: ", ".join(map(str, shown_prefixes(lab, n))) for n in lab.networks}
    rows = []
    for number, row in enumerate(chart.rows):
        own: list[Knot | None] = [None] * len(chart.columns)
        for knot in chart.knots:
            if knot.row == number:
                own[knot.column] = given.get((chart.columns[knot.column].device, knot.ports))
        rows.append(_Row(row.name, named.get(row.name, ""), row.serial, own))
    return TEMPLATES.get_template("hand_out.html").render(
        lab=lab,
        title=f"{lab.title}: {lab.stage_title}" if lab.stage else lab.title,
        brief=_MARKDOWN.render(lab.brief),
        columns=chart.columns,
        rows=[] if lab.asks_cabling else rows,
        devices=lab.devices.values() if lab.asks_cabling else (),
        given=given_sheets(lab),
        start={name: sheet.text for name, sheet in lab.start.items()},
        targets=[_said(asked) for asked in targets(lab)],
        free=[_chooses(free) for free in lab.free],
        questions=[c.operand for t in lab.scheme.tasks or () for c in t.criteria if c.key == "value"],
        nonce=nonce,
    )


def _chooses(free: FreePort | FreeNetwork) -> str:
    """Say what learners choose."""
    if isinstance(free, FreePort):
        return f"the address of {free.device} {free.port}, within its network"
    return f"the subnet of {free.name}, a /{free.planned.prefixlen} within {free.within}, and the addresses in it"


_ENDS = {
    "reply": "gets a reply",
    "no-reply": "gets no reply",
    "timeout": "gets no answer at all",
    "unreachable": "is told that it cannot be reached",
    "no-route": "cannot even send it",
    "answer": "is answered",
    "no-answer": "is not answered",
}


def _said(asked: Expected) -> str:
    """Say a target in a sentence."""
    who = f"{asked.sender} {asked.source}" if asked.source else asked.sender
    if isinstance(asked, ExpectedPing):
        return f"{who} pings {asked.to} and {_ENDS[asked.expect]}."
    assert isinstance(asked, ExpectedService)
    if asked.resolve is None:
        return f"{who} opens {asked.open} and {_ENDS[asked.expect]}."
    found = {"no-answer": "nothing", "answer": "its address"}.get(asked.expect, asked.expect)
    return f"{who} looks up {asked.resolve} and finds {found}."
