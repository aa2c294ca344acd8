"""Blind sittings: whose a paper is stands nowhere until the marks are released."""

import io
import zipfile

from flask.testing import FlaskClient

from zensur.work.desk import Desk

from .helpers import marked
from .sitting import LAB, asked, class_of, hand_in, new_sitting, papers


def test_who_hands_in_blind_has_no_name_anywhere_until_the_marks_are_released(
    client: FlaskClient, desk: Desk
) -> None:
    number = new_sitting(client, blind=True)["number"]
    (paper,) = hand_in(client, number, class_of("Ana Weir_902_file"))["papers"]
    here = f"sitting={number}"
    pages = [
        f"/api/labs/{LAB}/class?{here}", f"/api/labs/{LAB}/papers?{here}", f"/api/papers/{paper}",
        f"/api/papers/{paper}/journeys/1", f"/results/{LAB}.csv?columns=learner,id,group,mail&{here}", f"/results/{LAB}.json?{here}",
    ]  # fmt: skip
    marked(client, desk, pages[0])
    told = [client.get(page).get_data(as_text=True) for page in pages]
    archive = zipfile.ZipFile(io.BytesIO(client.get(f"/results/{LAB}.zip?{here}").data))
    told += [*archive.namelist(), *(archive.read(name).decode() for name in archive.namelist())]
    assert not [text for text in told if "4711" in text or "Ana" in text]
    assert all("Paper " in text for text in told[:6])
    asked(client, "POST", f"/api/sittings/{number}/released", 200, released=True)
    assert "Ana Weir" in client.get(pages[0]).get_data(as_text=True)


def test_the_order_of_a_blind_list_tells_nothing_of_whose_papers_are(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(client, roster="".join(f"{n},Learner {n}\n" for n in range(100, 112)), blind=True)[
        "number"
    ]
    hand_in(client, number, class_of(*map(str, range(100, 112))))
    listed = [
        p["learner"] for p in client.get(f"/api/labs/{LAB}/papers?sitting={number}").get_json()["papers"]
    ]
    assert listed == sorted(listed)
    assert len(set(listed)) == 12
    asked(client, "POST", f"/api/sittings/{number}/released", 200, released=True)
    listed = [
        p["learner"] for p in client.get(f"/api/labs/{LAB}/papers?sitting={number}").get_json()["papers"]
    ]
    assert listed == [f"Learner {n}" for n in range(100, 112)]


def test_names_of_files_tell_nothing_in_a_blind_sitting(client: FlaskClient, desk: Desk) -> None:
    number = new_sitting(client, roster="id,name\n4711,Ana Weir\n", blind=True)["number"]
    files = {f"Ana Weir_9_{path}": content for path, content in papers().items()}
    files["Ana Weir_9_weir.sheet"] += b"  adress 10.64.9.1/24\n"
    files["Ana Weir_9_thoughts.docx"] = b"?"
    told = hand_in(client, number, files, pattern="{learner}_9_{device}")
    (paper,) = told["papers"]
    marked(client, desk, f"/api/labs/{LAB}/class?sitting={number}")
    ways = [f"/api/papers/{paper}", f"/papers/{paper}/marked", f"/results/{LAB}.json?sitting={number}",
            f"/api/labs/{LAB}/class?sitting={number}", f"/api/labs/{LAB}/papers?sitting={number}"]  # fmt: skip
    assert [path for path in ways if "Ana" in client.get(path).get_data(as_text=True)] == []
    view = client.get(f"/api/papers/{paper}").get_json()
    assert view["result"]["remarks"] == [
        "One thing is noted about its files, to be shown when the marks are released."
    ]
    assert view["doubts"] == view["result"]["remarks"]
    assert any(line["fault"] for s in view["sheets"] for line in (s["margin"] or {}).get("lines", []))
    asked(client, "POST", f"/api/sittings/{number}/released", 200, released=True)
    view = client.get(f"/api/papers/{paper}").get_json()
    assert "Ana Weir_9_thoughts.docx" in view["result"]["remarks"][0]
