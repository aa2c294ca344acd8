"""Rules of nftables with maps, verdict maps and concatenations, taken apart into plain rules, one for each element.

The keys of a map, and the elements of a set, do not overlap: a packet fits one of the plain rules at most, so that they
come to the same as the rule that they are made of.
"""

from collections.abc import Iterator, Mapping
from typing import Any

from .wording import NotUnderstood

MOST_ALTERNATIVES, MOST_ELEMENTS = 256, 1_024


def plain_rules(expr: list[Any], sets: Mapping[str, Any]) -> list[list[Any]]:
    """Return the rules without maps and concatenations that a rule comes to; itself where it has none.

    ``sets`` are the named sets and maps of its table, with their elements.
    """
    done: list[list[Any]] = []
    left = [expr]
    while left:
        rule = left.pop()
        found = ((at, _alternatives(part, sets)) for at, part in enumerate(rule))
        at, parts = next(((at, parts) for at, parts in found if parts is not None), (0, None))
        if parts is None:
            done.append(rule)
        else:
            if len(done) + len(left) + len(parts) > MOST_ALTERNATIVES:
                raise NotUnderstood(f"it comes to more than {MOST_ALTERNATIVES} rules")
            left += [[*rule[:at], *part, *rule[at + 1 :]] for part in reversed(parts)]
    return done


def elements(told: Any, sets: Mapping[str, Any]) -> list[Any]:
    """Return the elements of a set or map, which may be named; anything else is an element by itself."""
    if isinstance(told, str) and told.startswith("@"):
        told = {"set": sets.get(told[1:], [])}
    if not isinstance(told, dict) or "set" not in told:
        return [told]
    listed = told["set"] if isinstance(told["set"], list) else [told["set"]]
    if len(listed) > MOST_ELEMENTS:  # many rules may name the same set
        raise NotUnderstood(f"it names a set of more than {MOST_ELEMENTS:,} elements")
    return [_bare(one) for one in listed]


def _few_elements(told: Any, sets: Mapping[str, Any]) -> list[Any]:
    """Return the elements of a set or map for each of which there is to be a rule."""
    found = elements(told, sets)
    if len(found) > MOST_ALTERNATIVES:
        raise NotUnderstood(f"it comes to more than {MOST_ALTERNATIVES} rules")
    return found


def _bare(element: Any) -> Any:
    """Return an element without what is kept beside it, such as how long it stays."""
    if isinstance(element, dict) and isinstance(element.get("elem"), dict):
        return element["elem"].get("val")
    return element


def _alternatives(part: Any, sets: Mapping[str, Any]) -> list[list[Any]] | None:
    """Return what a part of a rule comes to, each in plain parts; None where it is plain itself."""
    if not isinstance(part, dict) or len(part) != 1:
        return None
    kind, told = next(iter(part.items()))
    if not isinstance(told, dict):
        return None
    if kind == "match" and isinstance(told.get("left"), dict) and "concat" in told["left"]:
        if told.get("op") not in ("==", "in"):
            raise NotUnderstood("it matches all but some of several together")
        return [_matches(told["left"], key) for key in _few_elements(told.get("right"), sets)]
    if kind == "vmap":
        pairs = _pairs(told.get("data"), sets)
        return [[*_matches(told.get("key"), key), verdict] for key, verdict in pairs]
    for leaf in ("addr", "port"):
        mapped = told.get(leaf)
        if isinstance(mapped, dict) and isinstance(mapped.get("map"), dict):
            key, pairs = mapped["map"].get("key"), _pairs(mapped["map"].get("data"), sets)
            return [[*_matches(key, one), {kind: {**told, **_given(leaf, value)}}] for one, value in pairs]
    return None


def _pairs(data: Any, sets: Mapping[str, Any]) -> Iterator[tuple[Any, Any]]:
    for one in _few_elements(data, sets):
        if not isinstance(one, list) or len(one) != 2:
            raise NotUnderstood("its map has an element that is not known")
        yield _bare(one[0]), one[1]


def _matches(left: Any, key: Any) -> list[dict[str, Any]]:
    """Return the matches that a key stands for: one, or one for each part of a concatenation."""
    lefts, keys = _parts(left), _parts(key)
    if len(keys) != len(lefts):
        raise NotUnderstood("its parts and those of an element are not as many")
    return [
        {"match": {"op": "==", "left": asked, "right": wanted}}
        for asked, wanted in zip(lefts, keys, strict=True)
    ]


def _parts(told: Any) -> list[Any]:
    parts = told.get("concat") if isinstance(told, dict) else None
    return parts if isinstance(parts, list) else [told]


def _given(leaf: str, value: Any) -> dict[str, Any]:
    """Return what an element of a map gives a translation: an address, a port number, or both together."""
    both = _parts(value)
    return {"addr": both[0], "port": both[1]} if leaf == "addr" and len(both) == 2 else {leaf: value}
