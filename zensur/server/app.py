"""Makes the Flask application."""

from copy import deepcopy
from typing import Any

from flask import Flask
from flask_openapi3 import Info, OpenAPI
from werkzeug.middleware.proxy_fix import ProxyFix

from .. import __version__
from ..store import Asked
from ..work.desk import Desk
from .accepting import accepting_api
from .authoring import authoring_api
from .bench import bench_api
from .benches import benches_api
from .by_hand import by_hand_api
from .captures import captures
from .classes import classes_api
from .comments import comments_api
from .drafts import drafts_api
from .erasing import erasing_api
from .errors import register_errors, unreadable
from .groups import groups_api
from .hand_out import hand_out
from .labs import labs_api
from .marking import marking_api, marking_events
from .mended import mended_api
from .page import page
from .papers import papers_api
from .results import results_files
from .security import secure
from .shapes import Refusal
from .shelf import shelf_api, shown
from .signing_in import guard, session_api
from .sittings import sitting_files, sittings_api
from .versions import lab_files, versions_api

MOST_REQUEST_BYTES = 66 * 1024 * 1024
"""A class of 100 learners, and the request around it."""


def create_app(desk: Desk, host: str = "localhost", origin: str | None = None) -> Flask:
    """Make the application on a desk; it answers to the loopback names, and to the host that it listens on.

    Behind a reverse proxy it answers to the host of the ``origin`` that readers see (RFC 6454, section 6.1).
    """
    app = OpenAPI(
        __name__,
        info=Info(title="Zensur", version=__version__, description="Labs, papers and journeys."),
        doc_ui=False,
        security_schemes={"token": {"type": "apiKey", "name": "X-CSRFToken", "in": "header"}},
        validation_error_model=Refusal,
        validation_error_status=400,
        validation_error_callback=unreadable,
    )
    app.config.update(
        SECRET_KEY=desk.database.secret(),
        MAX_CONTENT_LENGTH=MOST_REQUEST_BYTES,
        MAX_FORM_MEMORY_SIZE=2 * 1024 * 1024,
        MAX_FORM_PARTS=2_000,
        SESSION_COOKIE_NAME="zensur",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_SECURE=origin is not None and origin.startswith("https:"),
        WTF_CSRF_TIME_LIMIT=None,
    )
    if origin is not None:  # whoever asks is told by the proxy alone
        app.wsgi_app = ProxyFix(app.wsgi_app, x_for=1, x_proto=0, x_host=0)  # type: ignore[method-assign]
    secure(app, frozenset({"localhost", "127.0.0.1", "::1", host.lower()}), origin)
    guard(app, desk)
    register_errors(app)
    shown(desk, Asked())  # what is opened first is ready soon
    app.register_api(session_api(desk))
    app.register_api(shelf_api(desk))
    app.register_api(labs_api(desk))
    app.register_api(authoring_api())
    app.register_api(bench_api())
    app.register_api(benches_api(desk))
    app.register_api(classes_api(desk))
    app.register_api(drafts_api(desk))
    app.register_api(erasing_api(desk))
    app.register_api(groups_api(desk))
    app.register_api(marking_api(desk))
    app.register_api(papers_api(desk))
    app.register_api(comments_api(desk))
    app.register_api(mended_api(desk))
    app.register_api(accepting_api(desk))
    app.register_api(by_hand_api(desk))
    app.register_api(sittings_api(desk))
    app.register_api(versions_api(desk))
    app.register_blueprint(captures(desk))
    app.register_blueprint(hand_out(desk))
    app.register_blueprint(lab_files(desk))
    app.register_blueprint(results_files(desk))
    app.register_blueprint(sitting_files(desk))
    app.register_blueprint(marking_events(desk))
    app.register_blueprint(page)
    app.add_url_rule("/api/openapi.json", "openapi", lambda: document(app))
    return app


def document(app: OpenAPI) -> dict[str, Any]:
    """Return the OpenAPI document: every change needs the token of the page, and what any answer may be."""
    told = deepcopy(app.api_doc)
    refusal = {"application/json": {"schema": {"$ref": "#/components/schemas/Refusal"}}}
    for ways in told["paths"].values():
        for way, operation in ways.items():
            changes = way != "get"
            if changes:
                operation["security"] = [{"token": []}]
            for status, why in _ANY_CHANGE.items() if changes else _ANY_READ.items():
                operation["responses"][str(status)] = {"description": why, "content": refusal}
    return told


_ANY_READ = {
    400: "The request cannot be read.",
    401: "Nobody is signed in who has to be.",
    404: "There is no such thing.",
    503: "The database is in use.",
}
_ANY_CHANGE = _ANY_READ | {
    405: "This cannot be done here.",
    403: "It was not asked for on a page of this application.",
    413: "It is too large.",
    507: "The disk is full.",
}
