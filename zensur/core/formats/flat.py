"""Flat archives, as course systems export them: learner and device stand in the names of the files.

A pattern says how, such as ``{learner}_{device}``. It is proposed from the names, and taken only when somebody has
seen what comes of it.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import takewhile

from .archives import BadArchive, File

FEWEST_LEARNERS = 2
MOST_STARS = 3
MOST_NAME = 255
"""So long a file's name is at most, as in any file system."""
_PARTS = re.compile(r"(\{learner\}|\{device\}|\*)")
_ENDING = re.compile(r"\.[A-Za-z0-9]{1,6}$", re.ASCII)


class BadPattern(ValueError):
    """The pattern cannot be used; the message says why."""


@dataclass(frozen=True, slots=True)
class Pattern:
    """How a file's name is made up of the learner's and the device's; ``*`` stands for anything, the ending for
    itself."""

    text: str

    def __post_init__(self) -> None:
        for part in ("{learner}", "{device}"):
            if self.text.count(part) != 1:
                raise BadPattern(
                    f"A pattern has {part} once, such as {{learner}}_{{device}}: {self.text[:60]!r} has not."
                )
        if self.text.count("*") > MOST_STARS:
            raise BadPattern(f"A pattern has at most {MOST_STARS} stars.")

    def learners(
        self, files: Iterable[File], devices: Sequence[str]
    ) -> tuple[dict[str, list[File]], list[File]]:
        """Sort files by learner, each named after its device; also return those that do not fit."""
        parts = [part for part in _PARTS.split(self.text) if part]
        ordered = sorted(devices, key=len, reverse=True)
        found: dict[str, list[File]] = {}
        others = []
        for file in files:
            name = file.path.rpartition("/")[2]
            match = _Match(name, parts, ordered) if len(name) <= MOST_NAME else None
            if match is None or not match.fits:
                others.append(file)
            else:
                learner = match.learner.strip(" _.-") or match.learner
                found.setdefault(learner, []).append(replace(file, path=f"{match.device}{match.ending}"))
        return found, others


class _Match:
    """A name read by the parts of a pattern, the earlier parts as short as can be.

    What was tried in vain at a place is not tried there again, so that no name takes longer than its length allows.
    """

    def __init__(self, name: str, parts: Sequence[str], devices: Sequence[str]) -> None:
        self.name, self.parts, self.devices = name, parts, devices
        self.learner = self.device = self.ending = ""
        self._vain: set[tuple[int, int]] = set()
        self.fits = self._read(0, 0)

    def _read(self, number: int, at: int) -> bool:
        """Read the parts from one on, from a place in the name on."""
        if (number, at) in self._vain:
            return False
        found = self._end(at) if number == len(self.parts) else self._part(number, at)
        if not found:
            self._vain.add((number, at))
        return found

    def _end(self, at: int) -> bool:
        self.ending = self.name[at:]
        return not self.ending or _ENDING.fullmatch(self.ending) is not None

    def _part(self, number: int, at: int) -> bool:
        part, rest = self.parts[number], self.name[at:].lower()
        if part == "{device}":
            for device in self.devices:
                if rest.startswith(device.lower()) and self._read(number + 1, at + len(device)):
                    self.device = self.name[at : at + len(device)]
                    return True
            return False
        if part not in ("{learner}", "*"):
            return rest.startswith(part.lower()) and self._read(number + 1, at + len(part))
        for end in range(at + (part == "{learner}"), len(self.name) + 1):
            if self._read(number + 1, end):
                if part == "{learner}":
                    self.learner = self.name[at:end]
                return True
        return False


def propose(files: Sequence[File], devices: Sequence[str]) -> Pattern | None:
    """Propose a pattern for files that lie in one folder and are named after nobody alone; None where none fits
    most."""
    stems = [_ENDING.sub("", f.path) for f in files if "/" not in f.path]
    lower = {d.lower() for d in devices}
    if len(stems) < FEWEST_LEARNERS or len(stems) < len(files) or any(s.lower() in lower for s in stems):
        return None
    names = "|".join(re.escape(d) for d in sorted(devices, key=len, reverse=True))
    last = [m for s in stems if (m := re.fullmatch(rf"(.+[^A-Za-z0-9])({names})", s, re.IGNORECASE))]
    first = [m for s in stems if (m := re.fullmatch(rf"({names})([^A-Za-z0-9].+)", s, re.IGNORECASE))]
    if 2 * len(last) > len(stems):
        before = [m[1] for m in last]
        between = _begins_alike([text[::-1] for text in before])[::-1]
        pattern = Pattern(f"{{learner}}{between}{{device}}")
    elif 2 * len(first) > len(stems):
        between = _begins_alike([m[2] for m in first])
        pattern = Pattern(f"{{device}}{between}{{learner}}")
    else:
        return None
    learners, _ = pattern.learners(files, devices)
    return pattern if len(learners) >= FEWEST_LEARNERS else None


def _begins_alike(texts: Sequence[str]) -> str:
    """Return what texts that begin with a sign between words have in common, up to where that sign stands last.

    What several learners share, such as a surname behind a space, stays theirs.
    """
    sign = texts[0][0]
    if len(set(texts)) == 1:
        return sign
    alike = "".join(p[0] for p in takewhile(lambda p: len(set(p)) == 1, zip(*texts, strict=False)))
    return alike[: alike.rfind(sign) + 1]


class FlatNames(BadArchive):
    """Files of several learners lie side by side: a pattern is needed, and one is proposed."""

    def __init__(self, pattern: Pattern, learners: Sequence[str]) -> None:
        shown = ", ".join(learners[:3]) + (f" and {len(learners) - 3} more" if len(learners) > 3 else "")
        super().__init__(
            f"These files bear learner and device in their names. "
            f"The pattern {pattern.text} makes {len(learners)} papers "
            f"of them: {shown}."
        )
        self.pattern, self.learners = pattern, tuple(learners)
