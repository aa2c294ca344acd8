"""The shelf: a part of all labs at a time, each with a card that was made once for its version."""

import json
import re
from functools import partial
from itertools import count
from typing import Annotated, Any

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field

from ..core.lab import read_lab, starter_lab
from ..core.marking.checking.lab_check import check_text
from ..core.sim import Model
from ..store import LabVersion
from ..work.desk import Desk
from ..work.revision import revision
from ..work.workers import Piece
from .errors import refused
from .shapes import LabCard, LabMade, NewLab, Refusal, Shelf, WeaveShape
from .views import weave_shape

Answer = Any
MOST_SHOWN = 60


class Part(BaseModel):
    """Which part of the labs is asked for: those that hold a text in name, title, level or topics, from one on."""

    find: Annotated[str, Field(max_length=120)] = ""
    start: Annotated[int, Field(ge=0, le=1_000_000)] = 0


def shelf_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("shelf", __name__, url_prefix="/api")

    @api.get("/labs", responses={200: Shelf})
    def shelf(query: Part) -> Answer:
        """Labs, in the order in which they were made. A card that is not there yet is made behind the answer."""
        shelved, of = desk.labs.shelf(engine(), query.find, query.start, MOST_SHOWN)
        labs = []
        for lab in shelved:
            if lab.card is None:
                want_card(desk, lab.version)
            version = lab.version
            told = {
                "slug": version.slug,
                "version": version.number,
                "saved_at": version.saved_at,
                "papers": lab.papers,
            }
            labs.append(f'{json.dumps(told)[:-1]}, "card": {lab.card or "null"}}}')
        rest = f'"start": {query.start}, "most": {MOST_SHOWN}, "of": {of}'
        return Response(f'{{"labs": [{", ".join(labs)}], {rest}}}', mimetype="application/json")

    @api.post("/labs", responses={201: LabMade, 422: Refusal})
    def make(body: NewLab) -> Answer:
        """A new lab from the starter."""
        stem = re.sub(r"[^a-z0-9]+", "-", body.title.lower()).strip("-")[:56] or "lab"
        if read_lab(starter_lab(stem, body.title.strip() or stem)).lab is None:
            return refused(422, "This cannot be a title: it holds characters that are not text.")
        tries = (stem if n == 1 else f"{stem}-{n}" for n in count(1))
        slug = next(s for s in tries if desk.labs.add(s, starter_lab(s, body.title.strip() or stem)))
        return LabMade(slug=slug).model_dump(), 201

    return api


def engine() -> str:
    """Return the revision of what makes cards."""
    return revision("zensur.server")


def want_card(desk: Desk, version: LabVersion) -> None:
    """Have the card of a version made behind the answers."""
    keep = partial(desk.labs.keep_card, version.key, engine())
    desk.workers.want(
        ("card", version.key),
        Piece(lambda: (card_of, (version.text,)), keep, lambda why: keep(_without(version, why))),
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
