"""What may stand next at a place of a sheet: for the editor, worked out from the table of statements."""

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field

from ..addresses import BadValue
from .grammar import Element, Form, Slot
from .headers import HEADERS
from .spelling import PLACES
from .statements import BLOCKS, TOP, Statement
from .words import Line

_HEADER = re.compile(r"(\S+)\s*(\S*)")


@dataclass(frozen=True, slots=True)
class Option:
    """Something that may be typed, and what it means."""

    text: str
    about: str = ""


@dataclass(frozen=True, slots=True)
class Completion:
    """What may stand at a place; ``column`` is the first column of the word that it completes."""

    column: int
    options: tuple[Option, ...]


@dataclass(frozen=True, slots=True)
class Surroundings:
    """What a sheet may name: the device's ports, and by role the values of the lab's plan."""

    ports: tuple[str, ...] = ()
    values: dict[str, tuple[Option, ...]] = field(default_factory=dict)
    blocks: frozenset[str] = frozenset(HEADERS)


def complete(text: str, number: int, column: int, around: Surroundings) -> Completion:
    """Return what may stand at a column of a line, both counted from 1; beyond the text at its end."""
    lines = text.split("\n")
    number = min(number, len(lines))
    before = lines[number - 1][: column - 1]
    typed = re.search(r"\S*$", before)
    partial = typed.group() if typed else ""
    start = len(before) - len(partial) + 1
    words = before[: start - 1].split()
    if "#" in before:
        return Completion(start, ())
    names = _named(text)
    if before[:1] in (" ", "\t"):
        place = _block_above(lines, number - 1)
        options = _inside(words, place, around, names) if place else iter(())
    else:
        options = _top(words, around, names)
    fitting = [o for o in options if o.text.lower().startswith(partial.lower()) and o.text != partial]
    return Completion(start, tuple(dict.fromkeys(fitting)))


def _block_above(lines: Sequence[str], at: int) -> str | None:
    for line in reversed(lines[:at]):
        if line.strip() and line[0] not in " \t#":
            found = _HEADER.match(line)
            word = found[1].lower() if found else ""
            if word not in HEADERS:
                return None
            return "sub-port" if word == "port" and found and re.fullmatch(r".+\.\d+", found[2]) else word
    return None


def _named(text: str) -> dict[str, list[str]]:
    """Return the names that the sheet itself declares, by role."""
    found: dict[str, list[str]] = {"port": [], "pool": [], "list": [], "instance": []}
    roles = {"loopback": "port", "port": "port", "pool": "pool", "addresses": "list", "instance": "instance"}
    for line in text.split("\n"):
        words = line.split()
        if len(words) > 1 and line[0] not in " \t":
            role = roles.get(words[0].lower())
            if role is not None:
                found[role].append(words[1])
            elif words[0].lower() == "vlan":
                found["port"].append(f"vlan{words[1]}")
    return found


def _top(words: list[str], around: Surroundings, names: dict[str, list[str]]) -> Iterator[Option]:
    if not words:
        for kind in BLOCKS:
            if kind.word in around.blocks:
                yield Option(kind.word, _plain(kind.about))
        yield from _first_words(TOP)
    elif words[0].lower() in HEADERS:
        if words[0].lower() == "port":
            yield from (Option(port, "a port of this device") for port in around.ports)
    else:
        yield from _next(PLACES[TOP].get(words[0].lower(), ()), words, around, names)


def _inside(
    words: list[str], place: str, around: Surroundings, names: dict[str, list[str]]
) -> Iterator[Option]:
    if not words:
        yield from _first_words(place)
    else:
        yield from _next(PLACES[place].get(words[0].lower(), ()), words, around, names)


def _first_words(place: str) -> Iterator[Option]:
    for word, kinds in PLACES[place].items():
        yield Option(word, _plain(kinds[0].SPEC.about))


def _plain(about: str) -> str:
    """Return what the reference says without its marks of code."""
    return about.replace("`", "")


def _next(
    kinds: Iterable[type[Statement]], words: list[str], around: Surroundings, names: dict[str, list[str]]
) -> Iterator[Option]:
    for kind in kinds:
        for form in kind.SPEC.forms:
            for element in _after(form, kind, words):
                if isinstance(element, str):
                    yield Option(element)
                else:
                    yield from _values(element, around, names)


def _values(slot: Slot, around: Surroundings, names: dict[str, list[str]]) -> Iterator[Option]:
    role = slot.operand.role
    if role in ("port", "pool"):
        yield from (Option(port, "a port of this device") for port in around.ports)
        yield from (Option(name) for name in names["port"])
    yield from (Option(name) for name in names.get(role, ()) if role != "port")
    yield from around.values.get(role, ())


def _after(form: Form, kind: type[Statement], words: list[str]) -> Iterator[Element]:
    """Yield the parts that may come next behind the words, where these begin as the form does."""
    line = Line(" ".join(words))
    try:
        for element in form.must:
            if not line.left:
                yield element
                return
            _take(element, line)
        for number, element in enumerate(form.may):
            if not line.left:
                yield element
                if number:
                    return
                break
            if isinstance(element, str) and line.peek() != element:
                break
            _take(element, line)
        tails = {str(tail.must[0]): tail for tail in kind.SPEC.tails}
        while line.left:
            tail = tails.pop(line.peek() or "")
            for element in tail.must:
                if not line.left:
                    yield element
                    return
                _take(element, line)
        yield from tails
    except (BadValue, KeyError):
        return


def _take(element: Element, line: Line) -> None:
    if isinstance(element, Slot):
        element.operand.read(line)
    elif line.peek() == element:
        line.take(element)
    else:
        raise BadValue("unexpected-word", "Another word is wanted here.")
