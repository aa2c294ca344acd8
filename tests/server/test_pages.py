"""Pages that leave the application: a marked paper as its learner gets it, and statistics that name nobody."""

import re

from click.testing import CliRunner
from flask.testing import FlaskClient

from zensur.cli import main
from zensur.server.classes import MOST_TERMS
from zensur.work.desk import Desk

from .helpers import marked
from .sitting import asked, class_of, hand_in, new_sitting

LAB = "first-addresses"
MEAN = "<script>alert(1)</script>"


def test_a_marked_paper_is_the_page_that_is_in_the_archive_of_all(client: FlaskClient, desk: Desk) -> None:
    row = marked(client, desk, f"/api/labs/{LAB}/class")["learners"][0]
    answer = client.get(f"/papers/{row['paper']}/marked")
    assert answer.mimetype == "text/html"
    nonce = re.search(r'<style nonce="([^"]+)"', answer.text)
    assert nonce
    assert f"'nonce-{nonce[1]}'" in answer.headers["Content-Security-Policy"]
    assert f"<h1>{row['learner']}</h1>" in answer.text
    asked(client, "POST", f"/api/papers/{row['paper']}/comments", 201, text=MEAN)
    text = client.get(f"/papers/{row['paper']}/marked").text
    assert MEAN not in text
    assert "&lt;script&gt;alert(1)&lt;/script&gt;" in text
    assert client.get("/papers/99999/marked").status_code == 404


def test_the_statistics_have_the_figures_of_the_class_and_nobody_of_it(
    client: FlaskClient, desk: Desk
) -> None:
    view = marked(client, desk, f"/api/labs/{LAB}/class")
    answer = client.get(f"/results/{LAB}/statistics")
    assert answer.status_code == 200
    rows = [re.findall(r"<td[^>]*>([^<]*)</td>", row) for row in re.findall(r"<tr.*?</tr>", answer.text)]
    slips = {row[0]: [int(n) for n in row[1:3]] for row in rows if len(row) == 4}
    assert slips == {s["title"]: [len(s["learners"]), s["times"]] for s in view["slips"]}
    criteria = {row[1]: row[3] for row in rows if len(row) == 7}
    assert criteria == {i["id"]: f"{100 * i['difficulty']:.0f} %" for i in view["items"]}
    (spread,) = ([int(n) for n in row] for row in rows if len(row) == 10)
    assert spread == view["distribution"]["bars"]
    heights = [float(high) for high in re.findall(r'<rect [^>]*height="([\d.]+)"', answer.text)]
    assert heights == [round(150 * learners / max(spread), 1) for learners in spread]
    assert not any(row["learner"] in answer.text for row in view["learners"])
    written = CliRunner().invoke(
        main, ["results", LAB, "--statistics", "--database", str(desk.database.path)]
    )
    assert written.exit_code == 0
    assert written.output.count("<tr") == answer.text.count("<tr")
    both = CliRunner().invoke(
        main, ["results", LAB, "--statistics", "--json", "--database", str(desk.database.path)]
    )
    assert (both.exit_code, "Either --json or --statistics" in both.output) == (2, True)


def test_without_marks_the_pages_say_so(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(client)["number"]
    assert "Nothing is marked yet." in client.get(f"/results/{LAB}/statistics?sitting={number}").text
    assert client.get(f"/results/{LAB}/statistics?sitting=99").status_code == 404


def test_what_a_paper_would_earn_with_a_mistake_mended(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(client)["number"]
    text = "port p1\n  address 10.64.99.9/24\n  on\n"
    (paper,) = hand_in(client, number, class_of("4711", **{"ledger.sheet": text.encode()}))["papers"]
    view = marked(client, desk, f"/api/papers/{paper}")
    fault = next(f for f in view["result"]["faults"] if (f["device"], f["port"]) == ("ledger", "p1"))
    then = asked(client, "GET", f"/api/papers/{paper}/mended/{fault['id']}", 200)
    assert (fault["direct"], view["result"]["carried"], then["carried"]) == (2, 36, 42)
    assert then["score"] == view["result"]["score"] + 2  # with half of ledger done, its pings are carried
    assert "address:ledger:p1" in then["holds"]
    assert then["lost"] == []
    asked(client, "POST", f"/api/papers/{paper}/overrules", 200, criterion="", marks=1, reason="seen")
    assert asked(client, "GET", f"/api/papers/{paper}/mended/{fault['id']}", 200)["carried"] == 1
    asked(client, "GET", f"/api/papers/{paper}/mended/99", 404)
    assert client.get(f"/api/papers/{paper}").get_json()["result"]["carried"] == 1  # and nothing was stored


def test_sittings_of_a_lab_stand_beside_each_other_the_earliest_first(
    client: FlaskClient, desk: Desk
) -> None:
    before = len(client.get(f"/api/labs/{LAB}/terms").get_json()["terms"])
    first, second = new_sitting(client)["number"], new_sitting(client, blind=True)["number"]
    hand_in(client, first, class_of("4711", "4712"))
    marked(client, desk, f"/api/labs/{LAB}/class?sitting={first}")
    view = asked(client, "GET", f"/api/labs/{LAB}/terms", 200)
    assert [own["number"] for own in view["sittings"]][before:] == [first, second]
    assert [term["learners"] for term in view["terms"]][before:] == [2, 0]
    figures = client.get(f"/api/labs/{LAB}/class?sitting={first}").get_json()
    assert [row["parts"][before] for row in view["tasks"]] == [t["difficulty"] for t in figures["of_tasks"]]
    assert all(row["parts"][before + 1] is None for row in view["slips"] + view["criteria"])
    asked(client, "GET", "/api/labs/no-such-lab/terms", 404)
    more = [new_sitting(client)["number"] for _ in range(MOST_TERMS)]
    view = asked(client, "GET", f"/api/labs/{LAB}/terms", 200)
    assert [own["number"] for own in view["sittings"]] == more  # only the newest
