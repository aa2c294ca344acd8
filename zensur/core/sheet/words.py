"""A line of a sheet as words with their columns; comments and quotes; what counts as a name."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from difflib import get_close_matches
from functools import lru_cache

from ..addresses import BadValue, looks_like_address

_WORD = re.compile(r"[^ \t\r]+")
_NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9._/-]{0,31}\Z", re.ASCII)
_LABEL = re.compile(r"[A-Za-z0-9_]([A-Za-z0-9_-]{0,61}[A-Za-z0-9_])?\Z", re.ASCII)
RESERVED = frozenset("any default to as from via out in shared discard mask wildcard all on off".split())

_TRADE = {
    "interface": "port", "hostname": "name", "description": "about", "netmask": "mask", "enabled": "on",
    "up": "on", "disabled": "off", "down": "off", "enable": "on", "disable": "off", "metric": "preference",
    "dev": "out", "blackhole": "discard", "inet": "address", "ip": "address", "nexthop": "via",
    "next-hop": "via", "nameserver": "resolver", "nat": "translate", "source-nat": "translate",
    "masquerade": "shared", "vrf": "instance", "clock": "clocking", "bandwidth": "clocking",
    "null": "discard", "vlan-id": "access", "tagged": "trunk", "untagged": "native", "allow": "permit",
    "reject": "deny", "lease-time": "duration", "dns-server": "resolver", "inside": "internal",
    "outside": "external", "through": "via", "listen": "service",
}  # fmt: skip
"""Words of the trade that are not words of this language, with ours."""


@dataclass(frozen=True, slots=True)
class Word:
    """One word; ``column`` is its first column, counted from 1."""

    text: str
    column: int

    @property
    def end(self) -> int:
        """The word's last column."""
        return self.column + len(self.text) - 1


class Line:
    """The words of one line, taken one after another."""

    def __init__(self, text: str) -> None:
        self.text = text[: _comment(text)].rstrip(" \t\r")
        self.words = [Word(m.group(), m.start() + 1) for m in _WORD.finditer(self.text)]
        self.at = 0
        self.warnings: list[tuple[BadValue, int]] = []
        self.hints = True
        """Whether suggestions are still wanted: looking for them takes most of the time of a bad line."""

    @property
    def indented(self) -> bool:
        """Whether the line belongs to the block above it."""
        return self.text[:1] in (" ", "\t")

    @property
    def left(self) -> int:
        """How many words have not been taken yet."""
        return len(self.words) - self.at

    def peek(self) -> str | None:
        """Return the next word in lower case without taking it."""
        return self.words[self.at].text.lower() if self.left else None

    def take(self, what: str) -> str:
        """Take the next word; ``what`` names what is wanted, for the error where there is none."""
        if not self.left:
            raise BadValue("missing-word", f"{what} is missing at the end of the line.")
        self.at += 1
        return self.words[self.at - 1].text

    def warn(self, bad: BadValue) -> None:
        """Remember what is not quite right with the word taken last, and yet is read."""
        self.warnings.append((bad, self.at - 1))

    def restart(self) -> None:
        """Begin again with the first word."""
        self.at = 0
        self.warnings.clear()

    def take_rest(self) -> str:
        """Take all that is left of the line as it was typed, without quotes around the whole."""
        if not self.left:
            raise BadValue("missing-word", "The text is missing at the end of the line.")
        rest = self.text[self.words[self.at].column - 1 :]
        self.at = len(self.words)
        return _unquote(rest)

    def span(self, first: int) -> tuple[int, int]:
        """Return the columns from word number ``first`` to the one taken last."""
        if not self.words:
            return 1, 1
        if first >= len(self.words):
            return self.words[-1].end + 1, self.words[-1].end + 1
        return self.words[first].column, self.words[max(first, self.at - 1)].end


def _closing(text: str, start: int) -> int:
    """Find the quote that closes the one at ``start``; -1 where there is none."""
    at = start + 1
    while at < len(text):
        if text[at] == "\\":
            at += 1
        elif text[at] == '"':
            return at
        at += 1
    return -1


def comment_in(line: str) -> str:
    """Return what a line has behind the ``#`` of its comment, each blank once; nothing where it has none."""
    return " ".join(line[_comment(line) + 1 :].split()) if "#" in line else ""


def _comment(text: str) -> int:
    """Find where the comment begins: the first ``#`` outside double quotes."""
    at = 0
    while at < len(text):
        if text[at] == "#":
            return at
        if text[at] == '"':
            closing = _closing(text, at)
            if closing < 0:  # a lone quote is an ordinary character, or it would swallow the comment
                found = text.find("#", at)
                return len(text) if found < 0 else found
            at = closing
        at += 1
    return len(text)


def _unquote(text: str) -> str:
    if text[0] == '"' and len(text) > 1 and _closing(text, 0) == len(text) - 1:
        return re.sub(r'\\(["\\])', r"\1", text[1:-1])
    return text


def quote(text: str) -> str:
    """Write free text so that reading it gives the same text."""
    plain = text and text == text.strip(" \t\r") and '"' not in text and "#" not in text
    if plain:
        return text
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'


def check_name(text: str) -> str:
    """Return ``text`` where it may be a name; raises :class:`BadValue`."""
    if text.lower() in RESERVED:
        raise BadValue("reserved-name", f"{text} is a word of the language and cannot be a name.")
    if looks_like_address(text):
        raise BadValue("name-is-address", f"A name is wanted here, and {text} reads as an address.")
    if not _NAME.match(text):
        bare = text.strip(":;,=")
        meant = bare if _NAME.match(bare) else None
        raise BadValue(
            "bad-name",
            f"{text[:40]} is no name: it starts with a letter or digit, goes on with letters, digits and . _ / -, "
            "and has at most 32 characters." + (f" Did you mean {meant}?" if meant else ""),
            meant,
        )
    return text


def check_domain(text: str) -> str:
    """Return ``text`` where it may be a name of the domain name system (RFC 1035, 2.3.1); raises :class:`BadValue`.

    A final dot says nothing and is left out.
    """
    name = text.removesuffix(".")
    if looks_like_address(name):
        raise BadValue("name-is-address", f"A name is wanted here, and {text} reads as an address.")
    if len(name) > 253 or not all(_LABEL.match(label) for label in name.split(".")):
        raise BadValue(
            "bad-name",
            f"{text[:40]} is no name to look up: letters, digits and - in parts divided by dots, such as "
            "page.example.",
        )
    return name


def nearest(word: str, known: Iterable[str], line: "Line") -> str | None:
    """Find the known word that was probably meant: one slip away, or ours for a word of the trade."""
    if not line.hints:
        return None
    wanted = list(known)
    said = word[:40].lower().rstrip(":;,")
    ours = said if said in wanted else _TRADE.get(said)
    if ours in wanted:
        return ours
    near = get_close_matches(said, wanted, 1, 0.65)
    return near[0] if near else None


@lru_cache(maxsize=4096)
def natural(name: str) -> tuple[tuple[int, int, str], ...]:
    """Sort key that puts p2 before p10."""
    parts = re.split(r"([0-9]+)", name.lower())
    return tuple((1, int(part), "") if part.isdecimal() else (0, 0, part) for part in parts if part)
