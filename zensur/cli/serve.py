"""``zensur serve`` and ``zensur demo``: the web application."""

import ipaddress
import socket
from contextlib import suppress
from pathlib import Path
from urllib.parse import urlsplit

import click

from ..demo import fill
from ..demo.classes import fill_class
from ..server import create_app, listen
from ..work.desk import Desk
from ..work.elsewhere import Elsewhere
from ..work.executors import NoCluster, executor_for
from ..work.workers import Workers
from .databases import DATABASE, open_database
from .inputs import unusable

_HOST = click.option(
    "--host",
    default="127.0.0.1",
    show_default=True,
    help="An address of this machine; another than a loopback one needs users.",
)
_USUAL_PORT = 8017
_PORT = click.option(
    "--port",
    type=click.IntRange(0, 65535),
    help=f"The port; where none is named {_USUAL_PORT}, or another one where that is taken.",
)


@click.command(epilog="Example: zensur serve --database labs.db --port 8020")
@DATABASE
@_HOST
@_PORT
@click.option(
    "--behind-proxy",
    metavar="ORIGIN",
    callback=lambda _ctx, _param, origin: _origin(origin),
    help="Where readers see it behind a reverse proxy that asks who they are, such as https://labs.example.net.",
)
@click.option(
    "--cluster", metavar="ADDRESS", help="Mark on the workers of a Dask scheduler, such as tcp://HOST:8786."
)
def serve(
    database: Path | None, host: str, port: int | None, behind_proxy: str | None, cluster: str | None
) -> None:
    """Start the web application on this machine."""
    try:
        with executor_for(1, cluster) as executor:
            workers = Elsewhere(executor) if executor else Workers()
            _run(Desk(open_database(database), workers), host, port, behind_proxy)
    except NoCluster as error:
        unusable(str(error))


@click.command(epilog="Example: zensur demo --port 8020")
@DATABASE
@_HOST
@_PORT
def demo(database: Path | None, host: str, port: int | None) -> None:
    """Start the web application with the demo labs and papers, in a database of its own."""
    desk = Desk(open_database(database, "demo.db"))
    fill(desk)
    fill_class(desk)
    _run(desk, host, port)


def _run(desk: Desk, host: str, port: int | None, origin: str | None = None) -> None:
    """Serve until interrupted; on another address than a loopback one only where everybody has to sign in."""
    host = host.lower()
    if host != "localhost" and not _is_loopback(host):
        if not desk.users.any():
            unusable(
                f"{host} is not a loopback address: others could use the application without a password. Let somebody "
                "sign in first, with zensur user add NAME."
            )
        if host in ("0.0.0.0", "::", ""):
            unusable(f"{host or 'That'} is every address: name the one that readers ask for.")
    elif not desk.users.any():
        click.echo("Nobody has to sign in on this machine: zensur user add NAME sets a password.", err=True)
    try:
        listening = _listen(host, port)
    except OSError as error:
        unusable(
            f"Port {port} cannot be used: {error.strerror}. Another one: --port 0 takes any that is free."
        )
    bound = listening.getsockname()[1]
    shown = f"[{host}]" if ":" in host else host
    click.echo(f"Zensur is at http://{shown}:{bound}/  (Ctrl-C ends it)")
    server = listen(create_app(desk, host, origin), listening)
    desk.queue.keep_on()
    try:
        server.run()
    finally:
        desk.queue.end()


def _listen(host: str, port: int | None) -> socket.socket:
    """Listen on a port; where none is named on the usual one, or on any that is free where that is taken."""
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    if port is None:
        with suppress(OSError):
            return socket.create_server((host, _USUAL_PORT), family=family)
    return socket.create_server((host, port or 0), family=family)


def _origin(text: str | None) -> str | None:
    """Return an origin as browsers send it (RFC 6454, section 6.1)."""
    if text is None:
        return None
    try:
        parts = urlsplit(text)
        port = "" if parts.port in (None, _USUAL[parts.scheme]) else f":{parts.port}"
        rest = text.split("//", 1)[1].partition("/")[2]
        if parts.hostname and not rest and "@" not in text:
            name = f"[{parts.hostname}]" if ":" in parts.hostname else parts.hostname
            return f"{parts.scheme}://{name}{port}"
    except (KeyError, ValueError):
        pass
    raise click.BadParameter(f"{text!r} is no origin: write it as https://labs.example.net, without a path.")


_USUAL = {"http": 80, "https": 443}


def _is_loopback(host: str) -> bool:
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return False
