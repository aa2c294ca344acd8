"""The demo: labs of a small inland canal authority, with papers of made-up learners."""

from importlib import resources
from typing import Any

import yaml

from ..core.formats import CABLING, CABLING_FILE, SUFFIXES, File, HandIn, form_of, write_configuration
from ..core.lab import Lab, read_lab
from ..core.marking.making.papers import sample_class
from ..core.sheet import read_sheet
from ..work.desk import Desk

LABS = (
    "first-addresses",
    "four-gates",
    "toll-house",
    "two-families",
    "harbour-office",
    "one-cabinet",
    "tidings",
    "rebuilding",
    "night-shift",
    "gauge-houses",
    "dry-dock",
)

LEARNERS = 12
"""How many papers the demo has of a lab whose class is made up."""


def lab_text(name: str) -> str:
    """Return the text of a demo lab."""
    return (resources.files(__name__) / "labs" / f"{name}.lab.yaml").read_text("utf-8")


def demo_papers(name: str, lab: Lab) -> list[HandIn]:
    """Return the papers that the demo has of a lab: those told in a file beside it, else a made-up class."""
    path = resources.files(__name__) / "labs" / f"{name}.papers.yaml"
    if not path.is_file():
        made = sample_class(lab, LEARNERS, seed=1)
        return [
            HandIn(learner, {d: File(f"{d}.sheet", text.encode()) for d, text in sheets.items()})
            for learner, sheets in made.items()
        ]
    text = path.read_text("utf-8")
    answers = {device: sheet.text for device, sheet in lab.answer.items()}
    return [_paper(learner, told, answers) for learner, told in yaml.safe_load(text).items()]


def _paper(learner: str, told: dict[str, Any], answers: dict[str, str]) -> HandIn:
    sheets = dict.fromkeys(answers, "") if told.get("blank") else {**answers, **told.get("sheets", {})}
    for change in told.get("change", []):
        before = sheets[change["device"]]
        if change["from"] not in before:
            raise ValueError(f"{learner}: {change['device']} has no {change['from']!r}")
        sheets[change["device"]] = before.replace(change["from"], change["to"], 1)
    forms: dict[str, str] = told.get("form", {})
    files = {d: _file(d, text, forms.get(d, "sheet")) for d, text in sheets.items()}
    cables = {CABLING: File(CABLING_FILE, told["cables"].encode())} if "cables" in told else {}
    return HandIn(learner, {**files, **cables})


def _file(device: str, sheet: str, form: str) -> File:
    """Return a sheet as the file that a learner hands in, who may have it in another form."""
    text = sheet if form == "sheet" else write_configuration(read_sheet(sheet).configuration, form)
    return File(device + SUFFIXES.get(form_of(text), ".snapshot"), text.encode())


def fill(desk: Desk) -> None:
    """Put the demo labs and their papers on a desk that does not have them yet, and have them marked."""
    for name in LABS:
        text = lab_text(name)
        lab = read_lab(text).lab
        if lab is None or not desk.labs.add(lab.id, text):
            continue
        version = desk.labs.newest(lab.id)
        if version is not None:
            for stage in lab.stages:
                desk.hand_in(desk.occasion(version, stage.stage), demo_papers(name, stage))
