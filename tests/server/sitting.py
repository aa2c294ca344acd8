"""A sitting of a demo lab for three learners, and papers for it."""

from pathlib import Path
from typing import Any

from flask.testing import FlaskClient

from zensur.core.formats import HandIn
from zensur.core.lab import read_lab
from zensur.demo import demo_papers, lab_text
from zensur.store import Database
from zensur.work.desk import Desk

from .helpers import marked, token, zipped

LAB = "first-addresses"
ROSTER = "id,name,team\n4711,Ana Weir,\n4712,Ben Lock,\n4713,Eva Quay,\n"


def asked(client: FlaskClient, way: str, path: str, status: int, **body: Any) -> Any:
    answer = client.open(path, method=way, json=body or None, headers=token(client))
    assert answer.status_code == status, answer.get_json()
    return answer.get_json(silent=True)


def new_sitting(client: FlaskClient, roster: str = ROSTER, slug: str = LAB, **more: Any) -> Any:
    group = asked(client, "POST", "/api/groups", 201, title="Tuesday", text=roster)["number"]
    return asked(client, "POST", "/api/sittings", 201, title="Week 3", slug=slug, groups=[group], **more)


def papers() -> dict[str, bytes]:
    """Return the sheets of some paper of the demo, by file name."""
    lab = read_lab(lab_text(LAB)).lab
    assert lab is not None
    paper: HandIn = demo_papers(LAB, lab)[0]
    return {file.path: file.content for file in paper.files.values()}


def class_of(*names: str, **more: bytes) -> dict[str, bytes]:
    """Return an archive's files: the same sheets in a folder for each name, with more sheets in place of theirs."""
    return {f"{name}/{path}": content for name in names for path, content in {**papers(), **more}.items()}


def hand_in(
    client: FlaskClient,
    number: int,
    files: dict[str, bytes],
    status: int = 201,
    slug: str = LAB,
    **more: object,
) -> Any:
    answer = client.post(
        f"/api/labs/{slug}/papers",
        data={"files": [zipped(**files)], "sitting": str(number), **more},
        content_type="multipart/form-data",
        headers=token(client),
    )
    assert answer.status_code == status, answer.get_json()
    return answer.get_json()


def grid(client: FlaskClient, desk: Desk, number: int) -> dict[str, Any]:
    """Return the rows of a sitting's class by what its learners are called, when all is marked."""
    view = marked(client, desk, f"/api/labs/{LAB}/class?sitting={number}")
    return {row["learner"]: row for row in view["learners"]}


def desk_that_waits(path: Path, *hand_ins: HandIn) -> Desk:
    """Return a desk with the lab and papers that wait for a process that marks."""
    desk = Desk(Database(path), marks=False)
    desk.labs.add(LAB, lab_text(LAB))
    version = desk.labs.newest(LAB)
    assert version is not None
    desk.hand_in(desk.occasion(version), list(hand_ins))
    return desk
