"""Signing in and out: as soon as there is a user, nobody is answered who is not signed in."""

from typing import Any
from urllib.parse import quote

from flask import Flask, Response, g, redirect, request, session
from flask_limiter import Limiter
from flask_limiter.util import get_remote_address
from flask_openapi3 import APIBlueprint
from flask_wtf import CSRFProtect

from ..pages.environment import TEMPLATES
from ..store import By
from ..work.desk import Desk
from .errors import refused
from .security import style_nonce
from .shapes import Refusal, SignedIn, SigningOut

Answer = Any
TRIES = "5 per minute"
"""So many wrong passwords are taken from an address."""
_COOKIE = "signed_in"
_OPEN = ("/sign-in", "/assets/")
"""What is answered to everybody: the form, and the files of the page, which are in every release."""


def by(reason: str = "") -> By:
    """Return who asks, and why, for the log."""
    return By(g.get("who", ""), reason.strip())


def guard(app: Flask, desk: Desk) -> None:
    """Answer nobody who is not signed in, where there is a user; and offer the form."""
    limiter = Limiter(get_remote_address, app=app, storage_uri="memory://", headers_enabled=False)

    @app.before_request
    def signed_in() -> Any:
        if not desk.users.any() or request.path.startswith(_OPEN):
            return None
        user = desk.users.signed_in(str(session.get(_COOKIE, "")))
        if user is not None:
            g.who, g.user = user.name, user
            return None
        session.pop(_COOKIE, None)
        if request.path.startswith("/api/") or request.method != "GET":
            return refused(401, "You are not signed in, or not any more.")
        return redirect(f"/sign-in?next={quote(request.full_path.rstrip('?'))}")

    def form() -> Any:
        return _form() if desk.users.any() else redirect("/")

    def sign_in() -> Any:
        user = desk.users.check(request.form.get("name", "")[:120], request.form.get("password", "")[:1000])
        if user is None:
            return _form("That name and password do not fit."), 401
        session.clear()  # nothing of before is carried in
        session[_COOKIE] = desk.users.sign_in(user)
        return redirect(_next())

    limited = limiter.limit(
        TRIES,
        deduct_when=lambda response: response.status_code == 401,
        error_message="Too many wrong passwords: wait a minute.",
    )
    app.add_url_rule("/sign-in", "sign_in_form", form)
    app.add_url_rule("/sign-in", "sign_in", limited(sign_in), methods=["POST"])
    protect: CSRFProtect = app.extensions["csrf"]
    protect.exempt(f"{sign_in.__module__}.{sign_in.__name__}")  # it needs no token: the origin is looked at


def session_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint: who is signed in, and signing out."""
    api = APIBlueprint("session", __name__, url_prefix="/api/session")

    @api.get("", responses={200: SignedIn})
    def who() -> Answer:
        """Who is signed in; nobody where nobody has to be."""
        return SignedIn(name=g.get("who", "")).model_dump()

    @api.post("/end", responses={204: None, 401: Refusal})
    def end(body: SigningOut) -> Answer:
        """Sign out, here or everywhere."""
        token = session.pop(_COOKIE, None)
        if body.everywhere and "user" in g:
            desk.users.sign_out_everywhere(g.user)
        elif token:
            desk.users.sign_out(str(token))
        return Response(status=204)

    return api


def _form(said: str = "") -> str:
    return TEMPLATES.get_template("sign_in.html").render(said=said, next=_next(), nonce=style_nonce())


def _next() -> str:
    """Return where to go on: an address of ours, else the shelf."""
    wanted = request.values.get("next", "/")
    ours = wanted.startswith("/") and not wanted.startswith(("//", "/\\", "/sign-in"))
    return wanted if ours and wanted.isprintable() else "/"
