"""What every answer bears and every change needs: content policy, CSRF token, no framing, no sniffing."""

import secrets
from urllib.parse import urlsplit

from flask import Flask, Response, abort, g, request
from flask_wtf import CSRFProtect


def style_nonce() -> str:
    """Return this answer's nonce for style elements, which the editor makes."""
    if "style_nonce" not in g:
        g.style_nonce = secrets.token_urlsafe(16)
    nonce: str = g.style_nonce
    return nonce


def _name_of(host: str) -> str:
    """Return a host without its port, and an IPv6 address without its brackets (RFC 3986, 3.2.2)."""
    if host.startswith("["):
        return host[1:].partition("]")[0].lower()
    return host.partition(":")[0].lower()


class _Token(CSRFProtect):  # type: ignore[misc]  # it has no types
    """Takes the token from its header only: a forged request is refused before its body is read."""

    def _get_csrf_token(self) -> str | None:
        return request.headers.get("X-CSRFToken")


def secure(app: Flask, hosts: frozenset[str], origin: str | None = None) -> None:
    """Answer to some hosts only, protect every change against forged requests, and set the headers of every answer.

    ``origin`` is where readers see the application, where that is not where it listens.
    """
    if origin is not None:
        hosts |= {urlsplit(origin).hostname or ""}

    @app.before_request
    def known_host() -> None:
        """Refuse what was meant for another name: a page elsewhere may have it lead here (DNS rebinding)."""
        if _name_of(request.headers.get("Host", "")) not in hosts:
            abort(400, "This application answers to the address that it was started with.")

    _Token(app)

    @app.before_request
    def from_here() -> None:
        """Refuse changes that another site asks for, whatever its page holds (Fetch Metadata; RFC 6454)."""
        if request.method in ("GET", "HEAD", "OPTIONS"):
            return
        site, asked = request.headers.get("Sec-Fetch-Site"), request.headers.get("Origin")
        if site not in (None, "same-origin", "none") or asked not in (
            None,
            origin or request.host_url.rstrip("/"),
        ):
            abort(403, "A change has to be asked for on a page of this application.")

    @app.after_request
    def headers(response: Response) -> Response:
        response.headers["Content-Security-Policy"] = (
            "default-src 'none'; script-src 'self'; "
            f"style-src 'self' 'nonce-{style_nonce()}'; font-src 'self' data:; img-src 'self' data:; "
            "connect-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
        )
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["X-Frame-Options"] = "DENY"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        if "Cache-Control" not in response.headers:
            response.headers["Cache-Control"] = "no-store"
        return response
