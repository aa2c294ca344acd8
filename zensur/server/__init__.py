"""The web application's server: thin blueprints over the desk, security, and the built front end."""

from .app import create_app

__all__ = ["create_app"]
