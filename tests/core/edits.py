"""Labs to edit, and what an edit does to their text."""

import difflib
from collections.abc import Iterator

from zensur.core.authoring.draft import Draft
from zensur.core.authoring.edits import edited
from zensur.core.lab import read_lab, starter_lab
from zensur.demo import LABS, lab_text

STARTER = starter_lab("mine", "Mine")
FIRST = lab_text("first-addresses")
RING = lab_text("four-gates")
STAGED = lab_text("rebuilding")


def change(text: str, *edits: object, stage: str = "") -> list[str]:
    """Return the lines that an edit takes out and puts in, each stripped, behind - and +."""
    after = edited(Draft(text, stage), list(edits)).text
    compared = difflib.ndiff(text.split("\n"), after.split("\n"))
    return [f"{line[0]} {line[2:].strip()}" for line in compared if line[0] in "+-"]


def row(text: str, name: str, stage: str = "") -> int:
    return [r.name for r in Draft(text, stage).chart.rows].index(name)


def every_stage() -> Iterator[tuple[str, str, str]]:
    for name in LABS:
        lab = read_lab(lab_text(name)).lab
        assert lab is not None
        for stage in lab.stages:
            yield name, lab_text(name), stage.stage
