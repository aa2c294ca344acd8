"""A lab of two routers and two hosts, small enough to work its marks out by hand."""

from tests.helpers import lab_of, paper_of
from zensur.core.lab import Lab
from zensur.core.marking.marker import Marker
from zensur.core.marking.shapes import Result

DEVICES = "weir=router:p1,p2 quay=router:p1,p2 ana=host bob=host"
LINKS = "ana:p1--weir:p1 weir:p2--quay:p2 quay:p1--bob:p1"
WEIR = (
    "port p1; -address 10.1.0.1/24; -on; port p2; -address 10.0.0.1/30; -on; route 10.2.0.0/24 via 10.0.0.2"
)
QUAY = (
    "port p1; -address 10.2.0.1/24; -on; port p2; -address 10.0.0.2/30; -on; route 10.1.0.0/24 via 10.0.0.1"
)
ANA = "port p1; -address 10.1.0.20/24; gateway 10.1.0.1"
BOB = "port p1; -address 10.2.0.20/24; gateway 10.2.0.1"
ANSWER = {"weir": WEIR, "quay": QUAY, "ana": ANA, "bob": BOB}
PING = {"ping": "1", "marks": 4}
ADDRESS, GATEWAY = {"address": "ana:p1", "marks": 3}, {"gateway": "ana", "marks": 2}
MORE = {"address": "ana:p1", "marks": 1}


def lab(
    *criteria: dict[str, object], pings: str = "ana>bob", answer: dict[str, str] | None = None, **more: object
) -> Lab:
    scheme = {"tasks": [{"title": "T", "criteria": [dict(c) for c in criteria]}], **more.pop("scheme", {})}  # type: ignore[dict-item]
    return lab_of(DEVICES, LINKS, answer or ANSWER, pings, scheme=scheme, **more)


def mark(of: Lab, **changes: str | None) -> Result:
    return Marker(of).mark(paper_of(of, changes))


def earned(result: Result) -> list[tuple[float, bool]]:
    return [(c.fraction, c.carried) for c in result.criteria]


def costs(result: Result) -> list[tuple[str, float, int]]:
    return [(f.device, f.direct, len(f.consequences)) for f in result.faults]


def totals(result: Result) -> tuple[float, float, float]:
    return result.score, result.carried, result.out_of
