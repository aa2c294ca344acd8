"""The web application's server: thin blueprints over the desk, security, and the built front end."""

from .app import create_app
from .listening import listen

__all__ = ["create_app", "listen"]
