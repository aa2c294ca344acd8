"""Every demo lab and the toll house of the tests, and papers of their lines mixed up."""

import random
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path

from zensur.core.lab import Lab, read_lab
from zensur.core.marking.paper import Paper, full_paper
from zensur.core.sheet import Sheet, read_sheet
from zensur.demo import LABS, lab_text

TOLL_HOUSE = (Path(__file__).parents[1] / "labs" / "toll-house.lab.yaml").read_text("utf-8")
ALL = [lab for text in (*map(lab_text, LABS), TOLL_HOUSE) if (lab := read_lab(text).lab) is not None]


def mangled(lab: Lab, chance: random.Random) -> dict[str, str]:
    """Papers of lines lost, out of order, or out of other labs' sheets."""
    others = [line for other in ALL for s in other.full_paper.values() for line in s.text.split("\n")]
    texts = {}
    for device in lab.devices:
        own = lab.full_paper[device].text.split("\n") if device in lab.full_paper else []
        kept = [line for line in own if chance.random() > 0.1]
        for _ in range(chance.randrange(4)):
            kept.insert(chance.randrange(len(kept) + 1), chance.choice(others))
        if chance.random() < 0.1:
            chance.shuffle(kept)
        if chance.random() < 0.8:
            texts[device] = "\n".join(kept)
    return texts


def handed_in(lab: Lab, sheets: Mapping[str, Sheet | str]) -> Paper:
    """A paper of some sheets, with the model answer's cables where the lab asks for them."""
    read = {d: t if isinstance(t, Sheet) else read_sheet(t, f"{d}.sheet") for d, t in sheets.items()}
    return replace(full_paper(lab), learner="0417", sheets=read)


def mangled_paper(lab: Lab, chance: random.Random) -> Paper:
    """One such paper, read."""
    texts = mangled(lab, chance)
    sheets = {device: read_sheet(text, f"{device}.sheet") for device, text in texts.items()}
    return Paper("0417", sheets, {device: f"{device}.sheet" for device in texts})
