"""What every answer bears and every change needs: content policy, CSRF token, no framing, no sniffing."""

import secrets

from flask import Flask, Response, g
from flask_wtf import CSRFProtect


def style_nonce() -> str:
    """Return this answer's nonce for style elements, which the editor makes."""
    if "style_nonce" not in g:
        g.style_nonce = secrets.token_urlsafe(16)
    nonce: str = g.style_nonce
    return nonce


def secure(app: Flask) -> None:
    """Protect every change against forged requests, and set the headers of every answer."""
    CSRFProtect(app)

    @app.after_request
    def headers(response: Response) -> Response:
        response.headers["Content-Security-Policy"] = (
            "default-src 'none'; script-src 'self'; "
            f"style-src 'self' 'nonce-{style_nonce()}'; font-src 'self'; img-src 'self' data:; "
            "connect-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
        )
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["X-Frame-Options"] = "DENY"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        if "Cache-Control" not in response.headers:
            response.headers["Cache-Control"] = "no-store"
        return response
