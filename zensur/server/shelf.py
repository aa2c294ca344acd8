"""The shelf: a part of all labs at a time, each with a card that was made once for its version."""

import json
import re
from collections.abc import Callable, Iterator
from functools import partial
from itertools import count
from typing import Annotated, Any

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field

from ..core.formats import NoTopology, is_json, lab_of_topology
from ..core.lab import empty_lab, read_lab, starter_lab
from ..core.lab.splice import CannotSplice, put
from ..core.marking.checking.lab_check import check_text
from ..core.sim import Model
from ..store import Asked, LabVersion, Shelved
from ..work.desk import Desk
from ..work.revision import revision
from ..work.workers import Piece
from .errors import refused
from .labs import LabPath, no_lab
from .shapes import IdTaken, LabCard, LabImport, LabMade, NewLab, Refusal, Removing, Shelf, WeaveShape
from .views import weave_shape

Answer = Any
MOST_SHOWN = 60
Words = Annotated[str, Field(max_length=120)]


class Part(BaseModel):
    """Which labs are asked for: that hold a text in name, title, level or topics; of a topic and a level; on the shelf,
    or ``removed`` from it; from one on."""

    find: Words = ""
    topic: Words = ""
    level: Words = ""
    removed: bool = False
    start: Annotated[int, Field(ge=0, le=1_000_000)] = 0


def shelf_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("shelf", __name__, url_prefix="/api")
    _of_all(api, desk)
    _of_one(api, desk)
    return api


def _of_all(api: APIBlueprint, desk: Desk) -> None:
    @api.get("/labs", responses={200: Shelf})
    def shelf(query: Part) -> Answer:
        """Labs, in the order in which they were made. A card that is not there yet is made behind the answer."""
        shelved, of = shown(desk, Asked(**query.model_dump()))
        labs = []
        for lab in shelved:
            version = lab.version
            told = {
                "slug": version.slug,
                "version": version.number,
                "saved_at": version.saved_at,
                "papers": lab.papers,
            }
            labs.append(f'{json.dumps(told)[:-1]}, "card": {lab.card or "null"}}}')
        topics, levels = desk.labs.kinds(engine())
        rest = {"start": query.start, "most": MOST_SHOWN, "of": of, "topics": topics, "levels": levels}
        return Response(f'{{"labs": [{", ".join(labs)}], {json.dumps(rest)[1:]}', mimetype="application/json")

    @api.post("/labs", responses={201: LabMade, 422: Refusal})
    def make(body: NewLab) -> Answer:
        """A new lab, empty or from the starter."""
        stem = re.sub(r"[^a-z0-9]+", "-", body.title.lower()).strip("-")[:56] or "lab"
        text = starter_lab if body.starter else empty_lab
        title = body.title.strip() or stem
        if read_lab(text(stem, title)).lab is None:
            return refused(422, "This cannot be a title: it holds characters that are not text.")
        slug = _free(desk, stem, lambda free: text(free, title))
        return LabMade(slug=slug).model_dump(), 201

    @api.post("/labs/import", responses={201: LabMade, 409: IdTaken, 422: Refusal})
    def take(body: LabImport) -> Answer:
        """A lab from its file, or from a topology in JSON (RFC 8345); where its id is taken another one is proposed."""
        try:
            given = lab_of_topology(body.text) if is_json(body.text) else body.text
        except NoTopology as none:
            return refused(422, f"This file cannot be read as a topology. {none}")
        found = read_lab(given)
        if found.lab is None:
            return refused(422, "This file cannot be read as a lab.", found.errors)
        slug = body.slug or found.lab.id
        try:
            text = given if slug == found.lab.id else put(given, "id", slug)
        except CannotSplice as cannot:
            return refused(422, str(cannot))
        read = read_lab(text)
        if read.lab is None:
            return refused(422, "This cannot be the id of a lab.", read.errors)
        if desk.labs.add(slug, text):
            return LabMade(slug=slug).model_dump(), 201
        free = next(s for s in _tries(slug) if desk.labs.newest(s) is None)
        return IdTaken(message=f"There is a lab {slug} already.", free=free).model_dump(), 409


def _of_one(api: APIBlueprint, desk: Desk) -> None:
    @api.post("/labs/<slug>/copy", responses={201: LabMade, 404: Refusal, 422: Refusal})
    def copy(path: LabPath) -> Answer:
        """A copy of a lab, its newest version, without papers."""
        version = desk.labs.newest(path.slug)
        if version is None:
            return no_lab(path.slug)
        try:
            text = put(version.text, "title", f"{desk.lab(version).title}, copy")
            if read_lab(text).lab is None:
                text = version.text  # whose title cannot be longer
            slug = _free(desk, path.slug, lambda free: put(text, "id", free))
        except CannotSplice as cannot:
            return refused(422, str(cannot))
        return LabMade(slug=slug).model_dump(), 201

    @api.post("/labs/<slug>/removed", responses={200: LabMade, 404: Refusal})
    def remove(path: LabPath, body: Removing) -> Answer:
        """Take a lab off the shelf, or put it back. Its versions and papers are kept."""
        if desk.labs.newest(path.slug) is None:
            return no_lab(path.slug)
        desk.labs.put_away(path.slug, body.removed)
        return LabMade(slug=path.slug).model_dump()


def _tries(slug: str) -> Iterator[str]:
    """Yield ids like one: itself, then with a number behind it."""
    stem = re.sub(r"-\d+$", "", slug)[:56]
    yield slug
    yield from (f"{stem}-{n}" for n in count(2))


def _free(desk: Desk, slug: str, text: Callable[[str], str]) -> str:
    """Add a lab under the first id like one that is free."""
    return next(free for free in _tries(slug) if desk.labs.add(free, text(free)))


def engine() -> str:
    """Return the revision of what makes cards."""
    return revision("zensur.server")


def shown(desk: Desk, asked: Asked) -> tuple[list[Shelved], int]:
    """Return a part of the shelf and how many labs there are; cards that are not there yet are wanted, in order."""
    shelved, of = desk.labs.shelf(engine(), asked, MOST_SHOWN)
    for lab in reversed(shelved):
        if lab.card is None:
            want_card(desk, lab.version)
    return shelved, of


def want_card(desk: Desk, version: LabVersion) -> None:
    """Have the card of a version made behind the answers."""
    keep = partial(desk.labs.keep_card, version.key, engine())
    desk.workers.want(
        ("card", version.key),
        Piece(lambda: (card_of, (version.text,)), keep, lambda why: keep(_without(version, why))),
        first=True,  # somebody looks at the shelf
    )


def _without(version: LabVersion, why: str) -> str:
    """Return the card of a lab that could not be checked."""
    nothing = WeaveShape(columns=[], rows=[], knots=[], links=0, down=[])
    return LabCard(
        title=version.slug, topics=[], level="", minutes=None, devices=0, networks=0, out_of=0, errors=1, weave=nothing,
        failure=why,
    ).model_dump_json()  # fmt: skip


def card_of(text: str) -> str:
    """Return the card of a lab as JSON, as a piece of work for a worker."""
    lab = read_lab(text).lab
    assert lab is not None  # only texts that can be read are saved
    check = check_text(text)
    chart = weave_shape(lab, Model(lab).network)
    return LabCard(
        title=lab.title,
        topics=list(lab.topics),
        level=lab.level,
        minutes=lab.minutes,
        devices=len(lab.devices),
        networks=len(chart.rows),
        out_of=check.out_of,
        errors=len(check.errors),
        weave=chart,
    ).model_dump_json()
