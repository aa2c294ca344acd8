"""The learner's edition: all that learners need, and nothing of the model answer."""

import re
from dataclasses import replace

import pytest

from tests.core.test_services import SERVED
from tests.core.test_stages import STAGED, VARIANTS
from tests.helpers import row
from zensur.core.formats import learners_edition
from zensur.core.lab import read_lab
from zensur.core.sheet import OnPort, read_sheet
from zensur.core.sim import Network, run_any
from zensur.demo import LABS, lab_text
from zensur.pages.hand_out import hand_out_page


def test_the_learners_edition_gives_nothing_away() -> None:
    for text in (SERVED, STAGED, VARIANTS, *map(lab_text, LABS)):
        lab = read_lab(text).lab
        assert lab is not None
        secret = {
            str(i.statement.interface.ip)
            for name, model in lab.model.items()
            for i in model.everywhere(OnPort)
            if i.statement not in [b.statement for b in lab.blank[name].everywhere(OnPort)]
            or name in lab.hidden
        }
        public = " ".join(
            [
                lab.brief,
                *(p.to for p in lab.pings if p.shown),
                *(s.text for n, s in lab.given.items() if n not in lab.hidden),
                *(s.text for s in lab.start.values()),
            ]
        )
        edition, page = learners_edition(lab), hand_out_page(lab)
        assert read_lab(edition).lab is not None, read_lab(edition).errors
        for address in () if lab.tells_plan else secret:  # else the plan tells them, on purpose
            if address not in public:
                assert not re.search(rf"\b{re.escape(address)}\b", edition), address
                assert not re.search(rf"\b{re.escape(address)}\b", page), address
        for word in ("answer:", "scheme", "note:", "hidden"):
            assert not re.search(rf"^ *{word}", edition, re.MULTILINE)
        for hidden in lab.hidden:
            assert lab.given[hidden].text not in edition


NAMED = """\
zensur: 1
id: named
devices:
  weir: {kind: router, ports: [p1]}
  quay: {kind: router, ports: [p1]}
links: ["weir:p1 -- quay:p1"]
answer:
  weir: "port p1\\n  address 10.64.8.1/24\\n  on\\nloopback lo0\\n  address 10.64.255.1/32\\nroute default via 10.64.8.2"
  quay: |
    port p1
      address 10.64.8.2/24
      address 2001:db8:8::2/64
      address fe80::2/64
      on
    loopback lo0
      address 10.64.255.2/32
    route default via 10.64.8.1
pings:
  - {from: weir, source: lo0, to: "quay:lo0", expect: reply, shown: true}
  - {from: quay, to: fe80::1, out: p1, expect: no-reply, shown: true}
  - {from: quay, to: "quay:p1", family: 6, expect: reply, shown: true}
"""


@pytest.mark.parametrize(
    ("weir", "quay", "outcome"),
    [
        ("lo0", "lo0", "reply"),
        ("bank", "lock", "reply"),  # names are free: the only ones there are
        ("bank", "lock;lo9", "no-route"),  # nobody can say which is meant
        ("bank;lo0", "lo9;lo0", "reply"),
    ],
)
def test_loopbacks_are_found_by_names_of_the_learners_own(weir, quay, outcome) -> None:
    lab = read_lab(NAMED).lab
    assert lab is not None
    edition = read_lab(learners_edition(lab)).lab
    assert edition is not None
    assert [(p.to, p.out, p.family) for p in edition.pings[1:]] == [
        ("fe80::1", "p1", None),
        ("quay:p1", None, 6),
    ]
    sheets = {}
    for device, names in (("weir", weir), ("quay", quay)):
        number = {"weir": 1, "quay": 2}[device]
        blocks = "".join(
            f"loopback {name}\n  address 10.64.255.{number if name == 'lo0' or n == 0 else 9}{n or ''}/32\n"
            for n, name in enumerate(names.split(";"))
        )
        text = (
            lab.answer[device].text.split("loopback")[0] + blocks + f"route default via 10.64.8.{3 - number}"
        )
        sheets[device] = read_sheet(text, device).configuration
    network = Network.of_lab(edition, edition.with_sheets(sheets))
    assert row(network, run_any(network, network, edition.pings[0]))["outcome"] == outcome


def test_the_weave_shows_host_parts_only_of_sheets_that_may_be_read() -> None:
    lab = read_lab(SERVED).lab
    assert lab is not None
    assert lab.hidden == {"shop"}
    hosts = re.findall(r'class="knot">([^<]*)<small>([^<]*)</small>', hand_out_page(lab))
    assert sorted(hosts) == [("p1", ""), ("p1", ""), ("p1", ".1"), ("p2", ".1")]
    whole = hand_out_page(replace(lab, hidden=frozenset()))
    assert ("p1", ".80") in re.findall(r'class="knot">([^<]*)<small>([^<]*)</small>', whole)


def test_the_page_loads_no_picture_from_elsewhere() -> None:
    text = lab_text("first-addresses").replace(
        "brief: |", "brief: |\n  See ![the <basin>](http://pictures.example/x.png).\n", 1
    )
    lab = read_lab(text).lab
    assert lab is not None
    page = hand_out_page(lab)
    assert "<img" not in page
    assert "pictures.example" not in page
    assert "See <em>(a picture: the &lt;basin&gt;, left out)</em>." in page


def test_the_page_holds_what_a_learner_needs() -> None:
    lab = read_lab(
        lab_text("first-addresses").replace("brief: |", "brief: |\n  <b>bold</b> **strong**", 1)
    ).lab
    assert lab is not None
    page = hand_out_page(lab, "abc")
    assert "&lt;b&gt;bold&lt;/b&gt; <strong>strong</strong>" in page
    assert '<style nonce="abc">' in page
    for said in ("First addresses", "upper reach", "10.64.16.0/20", "lock pings weir:p1 and gets a reply."):
        assert said in page


def test_a_hidden_clock_decides_in_the_learners_edition_and_cannot_be_read() -> None:
    lab = read_lab(lab_text("night-shift")).lab
    assert lab is not None
    (link,) = [link for link in lab.links if link.clock_hidden]
    assert link.clock is not None
    edition = learners_edition(lab)
    assert f"clock {link.clock.device}" not in edition
    learner = read_lab(edition).lab
    assert learner is not None
    (same,) = [own for own in learner.links if own.clock_hidden]
    assert (same.clock, same.ends) == (link.clock, link.ends)
    other = read_lab(edition.replace("id: night-shift", "id: other"))
    assert "belongs to another lab" in other.errors[0].message


def cells(page: str, heading: str) -> list[list[str]]:
    """The rows of the table under a heading."""
    part = page.split(f"<h2>{heading}</h2>")[1].split("</table>", maxsplit=1)[0].split("<tbody>")[1]
    return [re.findall(r"<t[dh][^>]*>([^<]*)</t[dh]>", row) for row in part.split("</tr>")[:-1]]


def test_the_page_tells_cables_plan_and_marks() -> None:
    lab = read_lab(lab_text("night-shift")).lab
    assert lab is not None
    page = hand_out_page(lab)
    assert ["weir", "s1", "quay", "s1", "from one end: find out which"] in cells(page, "Cables")
    first = read_lab(lab_text("first-addresses")).lab
    assert first is not None
    told = cells(hand_out_page(first), "Address plan")
    assert ["lock", "p1", "basin 10.64.8.0/24", "", ""] in told
    assert all(address == "" for *_, address, _ in told)
    marks = cells(hand_out_page(first), "Tasks and marks")
    assert marks[-1][0] == "in all"
    assert float(marks[-1][1]) == sum(float(m) for _, m in marks[:-1])
    whole = read_lab(lab_text("first-addresses").replace("links:\n", "plan: all\nlinks:\n", 1)).lab
    assert whole is not None
    asked = cells(hand_out_page(whole), "Address plan")
    assert ["lock", "p1", "basin 10.64.8.0/24", "10.64.8.1/24", "255.255.255.0"] in asked
    assert ["lock", "lo0", "loopback", "10.64.255.1/32", "255.255.255.255"] in asked


def test_a_wide_chart_is_cut_into_parts_that_bear_the_networks_names() -> None:
    lab = read_lab(lab_text("toll-house")).lab
    assert lab is not None
    page = hand_out_page(lab)
    assert len(lab.devices) == 12
    assert page.count('<table class="weave">') == 2
    assert page.count("to the carrier<small>") == 2
