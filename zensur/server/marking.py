"""How far marking is: as a plain answer, and as server-sent events while it goes on; stopped and gone on with."""

import json
import threading
import time
from collections.abc import Iterator
from typing import Any

from flask import Blueprint, Response
from flask_openapi3 import APIBlueprint

from ..work.desk import Desk
from ..work.occasion import Occasion
from .errors import refused
from .labs import LabPath
from .occasions import OfOccasion, occasion_asked, occasion_at
from .shapes import MarkingProgress, MarkingStop, Refusal

Answer = Any
STREAMS = 8
"""So many streams of events are open at once, each of which keeps a thread; further ones are told to ask plainly."""
STREAM_SECONDS, LOOK_SECONDS = 20.0, 0.3
"""So long a stream lasts, after which a browser opens another, and so often it is looked for news."""


def marking_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("marking", __name__, url_prefix="/api")

    @api.get("/labs/<slug>/marking", responses={200: MarkingProgress, 404: Refusal})
    def how_far(path: LabPath, query: OfOccasion) -> Answer:
        """How many of the papers that count are marked, have failed, or wait."""
        return _progress(desk, occasion_at(desk, path.slug, query)).model_dump()

    @api.post("/labs/<slug>/marking", responses={200: MarkingProgress, 404: Refusal})
    def stop(path: LabPath, query: OfOccasion, body: MarkingStop) -> Answer:
        """Stop marking, after the papers at hand, or go on with it."""
        occasion = occasion_at(desk, path.slug, query)
        if body.stopped:
            desk.stop(occasion)
        else:
            desk.go_on(occasion)
        return _progress(desk, occasion).model_dump()

    return api


def marking_events(desk: Desk) -> Blueprint:
    """Make the blueprint of the stream of events (text/event-stream, as the HTML standard has it)."""
    blueprint = Blueprint("marking-events", __name__)
    free = threading.BoundedSemaphore(STREAMS)

    @blueprint.get("/events/<slug>")
    def events(slug: str) -> Response | tuple[Response, int]:
        occasion = occasion_asked(desk, slug)
        if not free.acquire(blocking=False):
            return refused(503, "Too many pages watch: ask again plainly.")
        stream = Response(_stream(desk, occasion), mimetype="text/event-stream")
        stream.headers["Cache-Control"] = "no-store"
        stream.headers["X-Accel-Buffering"] = "no"  # a proxy is to pass each event on at once
        stream.call_on_close(free.release)
        return stream

    return blueprint


def _stream(desk: Desk, occasion: Occasion) -> Iterator[str]:
    """Yield how far marking is whenever that changes, until all is marked, or for a while."""
    until, said = time.monotonic() + STREAM_SECONDS, ""
    while time.monotonic() < until:
        progress = _progress(desk, occasion)
        told = json.dumps(progress.model_dump())
        yield (
            f"data: {told}\n\n" if told != said else ": still there\n\n"
        )  # by which a browser that left is noticed
        said = told
        if progress.left == 0:
            return
        time.sleep(LOOK_SECONDS)


def _progress(desk: Desk, occasion: Occasion) -> MarkingProgress:
    return MarkingProgress.model_validate(desk.how_far(occasion))
