"""Edits of the pings and service checks that a lab expects; criteria that name one by its number follow."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from ..lab.entries import move
from ..lab.splice import put_all
from .draft import CannotEdit, Draft

Listed = Literal["pings", "services"]
_KEY = {"pings": "ping", "services": "check"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Expect:
    """Expect an outcome of pings; one that is listed already gets the other outcome.

    ``pings`` hold ``from``, ``to``, ``expect`` and what else an entry may say.
    """

    do: Literal["expect"] = "expect"
    pings: tuple[dict[str, str], ...]

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the pings, new ones behind the others."""
        place = f"{draft.stage_place}pings"
        for ping in self.pings:
            asked = {k: v for k, v in ping.items() if v}
            number = _listed(draft, place, asked)
            if number is None:
                draft = draft.insert(place, asked)
            else:
                draft = draft.put(f"{place}[{number}].expect", asked.get("expect", ""))
        return draft


def _listed(draft: Draft, place: str, asked: Mapping[str, str]) -> int | None:
    """Find a ping that asks the same, in the file, but for its outcome."""
    typed = draft.typed
    for number in range(len(draft.lab.pings)):
        said = {
            k: typed.get(f"{place}[{number}].{k}", "").lower() for k in ("from", "to", "source", "family")
        }
        if all(said[k] == asked.get(k, "").lower() for k in said):
            return number
    return None


@dataclass(frozen=True, slots=True, kw_only=True)
class Forget:
    """Take pings or service checks off the list, by their numbers from 0, with the criteria that name them."""

    do: Literal["forget"] = "forget"
    listed: Listed = "pings"
    numbers: tuple[int, ...]

    def apply(self, draft: Draft) -> Draft:
        """Return the draft without them."""
        gone = sorted(set(self.numbers), reverse=True)
        of = _count(draft, self.listed)
        if not gone or gone[0] >= of or gone[-1] < 0:
            raise CannotEdit(f"There is no entry {gone[0] + 1 if gone else 0} in {self.listed}.")
        left = [n for n in range(of) if n not in gone]
        draft = _follow(draft, self.listed, {old: new for new, old in enumerate(left)})
        for number in gone:
            draft = draft.remove(f"{draft.stage_place}{self.listed}[{number}]")
        return draft


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveAsked:
    """Put a ping or check at another place of the order in which they run, counted from 0."""

    do: Literal["move-asked"] = "move-asked"
    listed: Listed = "pings"
    number: int
    to: int

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the ping moved."""
        of = _count(draft, self.listed)
        if not 0 <= self.number < of:
            raise CannotEdit(f"There is no entry {self.number + 1} in {self.listed}.")
        order = list(range(of))
        order.insert(min(max(self.to, 0), of - 1), order.pop(self.number))
        draft = _follow(draft, self.listed, {old: new for new, old in enumerate(order)})
        return draft.with_text(move(draft.text, f"{draft.stage_place}{self.listed}[{self.number}]", self.to))


def _count(draft: Draft, listed: str) -> int:
    return len(draft.lab.pings if listed == "pings" else draft.lab.services)


def _follow(draft: Draft, listed: str, now: Mapping[int, int]) -> Draft:
    """Let criteria name the same pings where their numbers change; those of pings that go are taken away."""
    entries = draft.lab.pings if listed == "pings" else draft.lab.services
    own = re.compile(rf"{re.escape(draft.stage_place)}scheme\.tasks\[\d+\]\.criteria\[\d+\]\.{_KEY[listed]}")
    written = {n for n in range(len(entries)) if f"{draft.stage_place}{listed}[{n}].id" in draft.typed}
    by_id = {one.id: n for n, one in enumerate(entries)}
    changed: dict[str, str] = {}
    gone: list[str] = []
    for place, value in draft.typed.items():
        number = by_id.get(value) if own.fullmatch(place) else None
        if number is None:
            continue
        if number not in now:
            gone.append(place.rpartition(".")[0])
        elif number not in written:
            changed[place] = str(now[number] + 1)
    draft = draft.with_text(put_all(draft.text, changed))
    for place in reversed(gone):
        draft = draft.remove(place)
    return draft


ASKED_EDITS = Expect | Forget | MoveAsked
