"""Who may sign in, with what password, and where somebody is signed in."""

import hashlib
import hmac
import secrets
import time
from dataclasses import dataclass

from .database import Database, now
from .entries import NOBODY, By, note

LEAST_PASSWORD = 12
"""So many characters a password has at least."""
IDLE_SECONDS = 12 * 3600.0
"""So long after it was last seen a session ends."""
_SEEN_EACH = 60.0
"""A session is seen so often at most: not every answer writes."""
_COST, _BLOCK, _PARALLEL = 2**15, 8, 1
"""The parameters N, r and p of scrypt (RFC 7914, section 2): 32 MiB, some tenth of a second."""


class BadPassword(ValueError):
    """A password that is not taken, with the reason in a sentence."""


@dataclass(frozen=True, slots=True)
class User:
    """Somebody who may sign in."""

    id: int
    name: str
    made_at: str


class Users:
    """The users of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def any(self) -> bool:
        """Say whether anybody has to sign in."""
        return self.database.connection().execute("SELECT 1 FROM user LIMIT 1").fetchone() is not None

    def all(self) -> list[User]:
        """Return the users by name."""
        rows = self.database.connection().execute("SELECT id, name, made_at FROM user ORDER BY name")
        return [User(*row) for row in rows]

    def named(self, name: str) -> User | None:
        """Return a user by name, whatever its capitals."""
        row = self.database.connection().execute("SELECT id, name, made_at FROM user WHERE name = ?", (name,))
        found = row.fetchone()
        return User(*found) if found else None

    def put(self, name: str, password: str, by: By = NOBODY) -> None:
        """Add a user, or give one another password, which ends all their sessions; raises :class:`BadPassword`."""
        hashed = _hashed(password, secrets.token_bytes(16))
        with self.database.transaction() as connection:
            there = connection.execute("SELECT id FROM user WHERE name = ?", (name,)).fetchone()
            connection.execute(
                "INSERT INTO user (name, password, made_at) VALUES (?, ?, ?) "
                "ON CONFLICT (name) DO UPDATE SET password = excluded.password",
                (name, hashed, now()),
            )
            if there:
                connection.execute("DELETE FROM session WHERE user = ?", (there["id"],))
            note(connection, by, "password changed" if there else "user added", text=name)

    def remove(self, user: User, by: By = NOBODY) -> None:
        """Remove a user with all their sessions; what they did stays in the log."""
        with self.database.transaction() as connection:
            connection.execute("DELETE FROM user WHERE id = ?", (user.id,))
            note(connection, by, "user removed", text=user.name)

    def check(self, name: str, password: str) -> User | None:
        """Return the user of a name and password; None where they do not fit, which takes as long for any name."""
        row = (
            self.database.connection()
            .execute("SELECT id, name, made_at, password FROM user WHERE name = ?", (name,))
            .fetchone()
        )
        kept = row["password"] if row else _NOBODYS
        salt = bytes.fromhex(kept.split("$")[1])
        fits = hmac.compare_digest(_scrypt(password, salt), kept)
        return User(row["id"], row["name"], row["made_at"]) if row and fits else None

    def sign_in(self, user: User) -> str:
        """Begin a session, and return what its cookie holds."""
        token = secrets.token_urlsafe(32)
        with self.database.transaction() as connection:
            connection.execute("DELETE FROM session WHERE seen_at < ?", (time.time() - IDLE_SECONDS,))
            connection.execute(
                "INSERT INTO session (hash, user, made_at, seen_at) VALUES (?, ?, ?, ?)",
                (_of_token(token), user.id, now(), time.time()),
            )
            note(connection, By(user.name), "signed in")
        return token

    def signed_in(self, token: str) -> User | None:
        """Return whose session a cookie holds; None where it has ended."""
        row = (
            self.database.connection()
            .execute(
                "SELECT u.id, u.name, u.made_at, s.seen_at FROM session s JOIN user u ON u.id = s.user "
                "WHERE s.hash = ? AND s.seen_at >= ?",
                (_of_token(token), time.time() - IDLE_SECONDS),
            )
            .fetchone()
        )
        if row is None:
            return None
        if time.time() - row["seen_at"] > _SEEN_EACH:
            with self.database.transaction() as connection:
                connection.execute(
                    "UPDATE session SET seen_at = ? WHERE hash = ?", (time.time(), _of_token(token))
                )
        return User(row["id"], row["name"], row["made_at"])

    def sign_out(self, token: str) -> None:
        """End a session."""
        with self.database.transaction() as connection:
            connection.execute("DELETE FROM session WHERE hash = ?", (_of_token(token),))

    def sign_out_everywhere(self, user: User) -> None:
        """End all sessions of a user."""
        with self.database.transaction() as connection:
            connection.execute("DELETE FROM session WHERE user = ?", (user.id,))
            note(connection, By(user.name), "signed out everywhere")


def _hashed(password: str, salt: bytes) -> str:
    if len(password) < LEAST_PASSWORD:
        raise BadPassword(
            f"A password has at least {LEAST_PASSWORD} characters; this one has {len(password)}."
        )
    return _scrypt(password, salt)


def _scrypt(password: str, salt: bytes) -> str:
    digest = hashlib.scrypt(
        password.encode("utf-8", "surrogatepass"), salt=salt, n=_COST, r=_BLOCK, p=_PARALLEL, maxmem=1 << 26
    )
    return f"scrypt-{_COST}-{_BLOCK}-{_PARALLEL}${salt.hex()}${digest.hex()}"


_NOBODYS = f"scrypt${'00' * 16}${'00' * 64}"
"""What a password is compared with whose name nobody has: it takes as long, and fits nothing."""


def _of_token(token: str) -> str:
    return hashlib.sha256(token.encode("utf-8", "surrogatepass")).hexdigest()
