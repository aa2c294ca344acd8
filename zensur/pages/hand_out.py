"""The learner's edition as a page: brief, weave, address plan, what is in place, targets."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from html import escape
from ipaddress import ip_interface

from markdown_it import MarkdownIt
from markdown_it.token import Token

from ..core.formats import given_sheets, shown_prefixes, targets
from ..core.lab import EMPTY, End, Expected, ExpectedPing, ExpectedService, FreeNetwork, FreePort, Lab, Link
from ..core.marking.scheme import tasks_of
from ..core.sim import Network
from ..core.weave import Knot, Weave, weave
from .environment import TEMPLATES
from .fonts import embedded_fonts

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


@dataclass(frozen=True, slots=True)
class _Planned:
    """A line of the address plan; what learners have to find is left empty."""

    device: str
    port: str
    network: str
    address: str
    mask: str


@dataclass(frozen=True, slots=True)
class _Cable:
    """A cable of the lab; ``clock`` is the device that gives it, or says that one has to be found."""

    a: End
    b: End
    clock: str


MOST_COLUMNS = 9
"""A wider chart is cut into pages, each with the names of the networks."""


def hand_out_page(lab: Lab, nonce: str = "") -> str:
    """Return the learner's edition as one HTML page; ``nonce`` lets its style pass a content policy.

    Nothing on it is taken from the model answer but the names of networks that the lab file itself
    gives them: addresses are those of the sheets that learners may read, or all of them with ``plan: all``.
    """
    chart = weave(lab, Network.of_lab(lab, lab.model))
    told = lab.model if lab.tells_plan else lab.blank
    readable = {name: EMPTY if name in lab.hidden else sheet for name, sheet in told.items()}
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
        spans=[(n, n + MOST_COLUMNS) for n in range(0, len(chart.columns), MOST_COLUMNS)],
        rows=[] if lab.asks_cabling else rows,
        plan=[] if lab.asks_cabling else list(_plan(chart, _told(lab), named)),
        cables=[] if lab.asks_cabling else [_cable(link) for link in lab.links],
        tasks=[(task.title, sum(c.marks for c in task.criteria)) for task in tasks_of(lab)],
        sheets=[name for name in lab.answer if name not in lab.hidden],
        fonts=embedded_fonts(),
        devices=lab.devices.values() if lab.asks_cabling else (),
        given=given_sheets(lab),
        start={name: sheet.text for name, sheet in lab.start.items()},
        targets=[_said(asked) for asked in targets(lab)],
        free=[_chooses(free) for free in lab.free],
        questions=[c.operand for t in lab.scheme.tasks or () for c in t.criteria if c.key == "value"],
        nonce=nonce,
    )


def _told(lab: Lab) -> Weave:
    """Return the weave of the addresses that the plan tells: those of sheets to begin with may be the mistake."""
    sheets = lab.model if lab.tells_plan else lab.under
    readable = {name: EMPTY if name in lab.hidden else sheet for name, sheet in sheets.items()}
    return weave(lab, Network.of_lab(lab, readable))


def _plan(chart: Weave, told: Weave, named: Mapping[str, str]) -> Iterator[_Planned]:
    """Yield a line for every port that is to bear an address, device by device, and for loopbacks that are told."""
    known = {
        (told.columns[k.column].device, port): k.address for k in told.knots for port in k.ports if k.address
    }
    for number, column in enumerate(chart.columns):
        if column.kind != "switch":
            for knot in (k for k in chart.knots if k.column == number):
                row = chart.rows[knot.row]
                yield _planned(
                    column.device, knot.ports[-1], row.name, named, known.get((column.device, knot.ports[-1]))
                )
        for loopback in next((c.loopbacks for c in told.columns if c.device == column.device), ()):
            yield _planned(column.device, loopback.name, "loopback", {}, f"{loopback.address}/32")


def _planned(device: str, port: str, network: str, named: Mapping[str, str], address: str | None) -> _Planned:
    name = f"{network} {named[network]}" if network in named else network
    if address is None:
        return _Planned(device, port, name, "", "")
    whole = ip_interface(address)
    return _Planned(device, port, name, str(whole), str(whole.netmask) if whole.version == 4 else "")


def _cable(link: Link) -> _Cable:
    if link.clock_hidden:
        return _Cable(link.a, link.b, "from one end: find out which")
    return _Cable(link.a, link.b, f"from {link.clock.device}" if link.clock else "")


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
