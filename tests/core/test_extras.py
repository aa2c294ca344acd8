"""Statements that nobody asked for: listed, ignored or charged, and told from those that serve."""

import pytest

from tests.helpers import lab_of, paper_of
from zensur.core.lab import Lab
from zensur.core.marking.marker import Marker

WEIR = (
    "port p1; -address 10.1.0.1/24; -on; port p2; -address 10.0.0.1/30; -on; route 10.2.0.0/24 via 10.0.0.2"
)
ANSWER = {
    "weir": WEIR,
    "quay": "port p1; -address 10.2.0.1/24; -on; port p2; -address 10.0.0.2/30; -on; route 10.1.0.0/24 via 10.0.0.1",
    "ana": "port p1; -address 10.1.0.20/24; gateway 10.1.0.1",
    "bob": "port p1; -address 10.2.0.20/24; gateway 10.2.0.1",
}


def small(**scheme: object) -> Lab:
    return lab_of(
        "weir=router:p1,p2 quay=router:p1,p2 ana=host bob=host",
        "ana:p1--weir:p1 weir:p2--quay:p2 quay:p1--bob:p1",
        ANSWER, "ana>bob ana>10.9.0.1=unreachable", scheme=scheme,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("weir", "wanted"),
    [
        (WEIR, []),
        (
            WEIR + "; loopback lo7; -address 10.7.0.1/32",
            [("loopback lo7, address 10.7.0.1/32", True)],
        ),
        (WEIR + "; loopback lo7", [("loopback lo7", True)]),
        (WEIR + "; route 10.8.0.0/24 via 10.0.0.2", [("route 10.8.0.0/24 via 10.0.0.2", True)]),
        (
            WEIR + "; route 10.8.0.0/24 via 10.66.0.2",
            [("route 10.8.0.0/24 via 10.66.0.2", False)],
        ),  # never active
        (WEIR + "; service tcp 80 about a page", [("service tcp 80", True)]),
        (WEIR + "; gateway 10.0.0.2", [("gateway 10.0.0.2", False)]),  # ignored on what forwards
        (WEIR.replace("-on; port p2", "-about the reach; -on; port p2") + "; name weir", []),
        (WEIR.replace("10.2.0.0/24 via 10.0.0.2", "10.2.0.0/23 via 10.0.0.2"), []),  # serves in its place
        (WEIR.replace("via 10.0.0.2", "via 10.0.0.9"), []),  # that is a mistake, and told of there
    ],
)
def test_what_is_an_extra(weir: str, wanted: list[tuple[str, bool]]) -> None:
    lab = small()
    result = Marker(lab).mark(paper_of(lab, {"weir": weir}))
    assert [(e.found, e.changes) for e in result.extras] == wanted
    assert all(e.device == "weir" and e.file == "weir.sheet" and e.line for e in result.extras)


def test_extras_are_ignored_or_charged_as_the_scheme_says() -> None:
    more = WEIR + "".join(f"; route 10.8.{n}.0/24 via 10.0.0.2" for n in range(4)) + "; gateway 10.0.0.2"
    for scheme, count, cost in (
        ({"extras": "ignore"}, 0, 0.0),
        ({"extras": "report"}, 5, 0.0),
        ({"extras": "charge"}, 5, 4.0),
        ({"extras": "charge", "charge": 0.5, "charge_limit": 1.25}, 5, 1.25),
        ({"extras": "charge", "charge": 90}, 5, 99.0),
    ):
        lab = small(**scheme)
        result = Marker(lab).mark(paper_of(lab, {"weir": more}))
        assert len(result.extras) == count
        assert result.score == result.carried == max(0.0, result.out_of - cost)
