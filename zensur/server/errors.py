"""Errors as JSON: a sentence, and for a lab file the places where it is wrong."""

import sqlite3
from collections.abc import Sequence

from flask import Flask, Response, jsonify, make_response, request
from flask_wtf.csrf import CSRFError
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException

from ..core.lab import LabError
from ..store import why_unusable

_SAID = {
    404: "There is nothing at this address.",
    405: "This cannot be done here.",
    413: "This is too large: at most 64 MiB are taken at once.",
}


class NotThere(LookupError):
    """What a request is about is not there; the message says so in a sentence."""


def refused(status: int, message: str, errors: Sequence[LabError] = ()) -> tuple[Response, int]:
    """Answer with an error."""
    places = [{"place": e.place, "line": e.line, "column": e.column, "message": e.message} for e in errors]
    return jsonify(message=message, errors=places), status


def register_errors(app: Flask) -> None:
    """Answer every error below /api as JSON, and elsewhere in plain text."""

    @app.errorhandler(CSRFError)
    def forged(_error: CSRFError) -> tuple[Response, int]:
        return refused(403, "This page has grown old. Load it again, and repeat the last step.")

    @app.errorhandler(NotThere)
    def not_there(error: NotThere) -> tuple[Response, int]:
        if request.path.startswith("/api/"):
            return refused(404, str(error))
        return Response(str(error), mimetype="text/plain"), 404

    @app.errorhandler(RecursionError)
    def too_deep(_error: RecursionError) -> tuple[Response, int]:
        return refused(400, "This request cannot be read: it is nested too deeply.")

    @app.errorhandler(sqlite3.OperationalError)
    def not_stored(error: sqlite3.OperationalError) -> tuple[Response, int]:
        said = why_unusable(error)
        status = 507 if error.sqlite_errorcode & 0xFF == sqlite3.SQLITE_FULL else 503
        said = said[0].upper() + said[1:]
        return (
            refused(status, said)
            if request.path.startswith("/api/")
            else (Response(said, mimetype="text/plain"), status)
        )

    @app.errorhandler(HTTPException)
    def failed(error: HTTPException) -> tuple[Response, int]:
        status = error.code or 500
        said = _SAID.get(status, error.description or error.name)
        if request.path.startswith("/api/"):
            return refused(status, said)
        return Response(said, mimetype="text/plain"), status


def unreadable(error: ValidationError) -> Response:
    """Say which part of a request is not as it has to be; what was sent is not repeated."""
    said = [
        f"{'.'.join(map(str, e['loc'])) or 'the request'}: {e['msg']}"
        for e in error.errors(include_input=False, include_url=False, include_context=False)
    ]
    return make_response(refused(400, f"This request cannot be read: {'; '.join(said[:4])}."))
