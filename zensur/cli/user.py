"""``zensur user``: who may sign in."""

from pathlib import Path

import click

from ..store.users import LEAST_PASSWORD, BadPassword, Users
from .databases import DATABASE, open_database
from .inputs import unusable

_NAME = click.argument("name")


@click.group(epilog="Example: zensur user add ana --database labs.db")
def user() -> None:
    """Say who may sign in. As soon as there is a user nobody else is answered."""


@user.command(epilog="Example: zensur user add ana")
@_NAME
@DATABASE
def add(name: str, database: Path | None) -> None:
    """Let NAME sign in, with a password that is asked for."""
    users = Users(open_database(database))
    if users.named(name):
        unusable(f"There is a user {name} already: zensur user password {name} sets another password.")
    _put(users, name)
    click.echo(f"{name} may sign in, and everybody has to.")


@user.command(epilog="Example: zensur user password ana")
@_NAME
@DATABASE
def password(name: str, database: Path | None) -> None:
    """Give NAME another password, and sign them out everywhere."""
    users = Users(open_database(database, there=True))
    known = users.named(name) or unusable(f"There is no user {name}.")
    _put(users, known.name)
    click.echo(f"{known.name} has another password, and is signed out everywhere.")


@user.command(epilog="Example: zensur user remove ana")
@_NAME
@DATABASE
def remove(name: str, database: Path | None) -> None:
    """Let NAME sign in no more."""
    users = Users(open_database(database, there=True))
    users.remove(users.named(name) or unusable(f"There is no user {name}."))
    rest = "" if users.any() else " Nobody has to sign in any more."
    click.echo(f"{name} is removed.{rest}")


@user.command("list", epilog="Example: zensur user list")
@DATABASE
def list_users(database: Path | None) -> None:
    """List who may sign in."""
    for one in Users(open_database(database, there=True)).all():
        click.echo(one.name)


def _put(users: Users, name: str) -> None:
    if not name.strip() or not name.isprintable() or len(name) > 120:
        unusable("A name has 1 to 120 characters that can be seen.")
    said = f"Password, at least {LEAST_PASSWORD} characters"
    typed = click.prompt(said, hide_input=True, confirmation_prompt="Again", err=True)
    try:
        users.put(name, typed)
    except BadPassword as bad:
        unusable(str(bad))
