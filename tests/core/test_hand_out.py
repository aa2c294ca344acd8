"""The learner's edition: all that learners need, and nothing of the model answer."""

import re
from dataclasses import replace

from tests.core.test_services import SERVED
from tests.core.test_stages import STAGED, VARIANTS
from zensur.core.formats import learners_edition
from zensur.core.lab import read_lab
from zensur.core.sheet import OnPort
from zensur.demo import LABS, lab_text
from zensur.pages import hand_out_page


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
        for address in secret:
            if address not in public:
                assert not re.search(rf"\b{re.escape(address)}\b", edition), address
                assert not re.search(rf"\b{re.escape(address)}\b", page), address
        for word in ("answer:", "scheme", "note:", "hidden"):
            assert not re.search(rf"^ *{word}", edition, re.MULTILINE)
        for hidden in lab.hidden:
            assert lab.given[hidden].text not in edition


def test_the_weave_shows_host_parts_only_of_sheets_that_may_be_read() -> None:
    lab = read_lab(SERVED).lab
    assert lab is not None
    assert lab.hidden == {"shop"}
    hosts = re.findall(r'class="knot">([^<]*)<small>([^<]*)</small>', hand_out_page(lab))
    assert sorted(hosts) == [("p1", ""), ("p1", ""), ("p1", ".1"), ("p2", ".1")]
    whole = hand_out_page(replace(lab, hidden=frozenset()))
    assert ("p1", ".80") in re.findall(r'class="knot">([^<]*)<small>([^<]*)</small>', whole)


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
