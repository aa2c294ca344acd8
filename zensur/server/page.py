"""The built front end: one page for every address of the application, and its files."""

import gzip
from functools import lru_cache
from pathlib import Path

from flask import Blueprint, Response, abort, request, send_from_directory
from flask_wtf.csrf import generate_csrf

from .security import style_nonce

BUILT = Path(__file__).parent / "page"
page = Blueprint("page", __name__)


@page.get("/assets/<path:name>")
def assets(name: str) -> Response:
    """Send a built file; its name changes with its contents, so it may be kept for ever."""
    response = send_from_directory(BUILT / "assets", name)
    if name.endswith((".js", ".css")):
        response.headers["Vary"] = "Accept-Encoding"
        if request.accept_encodings["gzip"] and response.status_code == 200:
            response.direct_passthrough = False
            response.set_data(_compressed(name))
            response.headers["Content-Encoding"] = "gzip"
    response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
    return response


@lru_cache(maxsize=64)
def _compressed(name: str) -> bytes:
    """Return a built file compressed (RFC 1952); its name changes with its contents."""
    return gzip.compress((BUILT / "assets" / name).read_bytes(), mtime=0)


@page.get("/", defaults={"path": ""})
@page.get("/<path:path>")
def index(path: str) -> Response:
    """Send the page; the front end shows the view that the address names."""
    if path.startswith(("api/", "assets/")):
        abort(404)
    built = BUILT / "index.html"
    if not built.is_file():
        abort(503, "The front end is not built yet: run make build.")
    html = built.read_text("utf-8")
    html = html.replace("%CSRF_TOKEN%", generate_csrf()).replace("%STYLE_NONCE%", style_nonce())
    return Response(html, mimetype="text/html")
