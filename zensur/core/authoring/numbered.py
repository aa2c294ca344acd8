"""Criteria that name a ping or check by its number: they name the same one where others come before it, or go."""

import re
from collections.abc import Collection, Sequence
from itertools import count, takewhile
from typing import Literal

from ..lab.splice import put_all
from .draft import Draft

Listed = Literal["pings", "services"]
_KEY = {"pings": "ping", "services": "check"}


def listed_count(draft: Draft, stage: str, listed: Listed) -> int:
    """Return how many a stage lists; ``stage`` is what stands before its keys, empty where the lab has none."""
    return len(list(takewhile(lambda n: f"{stage}{listed}[{n}]" in draft.entries, count())))


def reordered(draft: Draft, stage: str, listed: Listed, order: Sequence[int]) -> tuple[Draft, list[str]]:
    """Let criteria name the same pings in another order: ``order`` holds their numbers of now, from 0; some may go.

    Return the draft, its list as it was, and the places of criteria that name what goes.
    """
    own = re.compile(rf"{re.escape(stage)}scheme\.tasks\[\d+\]\.criteria\[\d+\]\.{_KEY[listed]}")
    now = {old: new for new, old in enumerate(order)}
    ids = [draft.typed.get(f"{stage}{listed}[{n}].id") for n in range(listed_count(draft, stage, listed))]
    number_of = {own_id or str(n + 1): n for n, own_id in enumerate(ids)}
    changed: dict[str, str] = {}
    gone: list[str] = []
    for place, value in draft.typed.items():
        number = number_of.get(value) if own.fullmatch(place) else None
        if number is None:
            continue
        if number not in now:
            gone.append(place.rpartition(".")[0])
        elif ids[number] is None:
            changed[place] = str(now[number] + 1)
    return draft.with_text(put_all(draft.text, changed)), gone


def left_of(draft: Draft, stage: str, listed: Listed, gone: Collection[int]) -> list[int]:
    """Return the numbers that are left without some."""
    return [n for n in range(listed_count(draft, stage, listed)) if n not in gone]
