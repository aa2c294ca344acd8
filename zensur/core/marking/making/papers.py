"""A made-up class: papers with a few slips each, spelling varied, some blank, one copied, one with two sheets
exchanged."""

import random
import re
from ipaddress import ip_network

from ...lab import Lab
from ..slips.catalogue import slips_in
from ..slips.made import MadeSlip
from .made import may_go_together, sheets_with

_FIRST = (
    "Arvid", "Birte", "Carsta", "Dorin", "Elke", "Fedor", "Gesine", "Halvar", "Inken", "Jaro", "Kaja", "Lorin", "Merle",
    "Nele", "Orla", "Pelle", "Quirin", "Runa", "Silja", "Tjark", "Ulla", "Veit", "Wanja", "Xenia", "Yorick", "Zita",
)  # fmt: skip
_LAST = (
    "Aalder", "Brand", "Clasen", "Dahl", "Ehmke", "Fock", "Grandt", "Holm", "Ivens", "Jahnke", "Kroog", "Lüders",
    "Mielke", "Nissen", "Ohlsen", "Petersen", "Quast", "Rohde", "Stamm", "Thoms", "Uhde", "Voss", "Wiese", "Zacher",
)  # fmt: skip
_MOST_SLIPS = 3
_BLANK_EACH, _RIGHT_EACH = 12, 6
_COMMON = 1 / 3


def sample_class(lab: Lab, learners: int, seed: int, *, recurring: int = 0) -> dict[str, dict[str, str]]:
    """Return papers by learner: the text of each device's sheet. The same seed gives the same class.

    Of every twelve one is blank and two are right; the others have one to three slips each, and so many ``recurring``
    ones are in a third of the papers each, as classes have them. One paper is copied with its slips, and in one two
    sheets are exchanged, where there are enough.
    """
    chance = random.Random(f"{lab.id} {seed}")
    slips = slips_in(lab)
    common = chance.sample(slips, min(recurring, len(slips)))
    papers: dict[str, dict[str, str]] = {}
    for number, name in enumerate(_names(learners, chance)):
        if number % _BLANK_EACH == _BLANK_EACH - 1:
            papers[name] = dict.fromkeys(lab.full_paper, "")
            continue
        made = [] if number % _RIGHT_EACH == 0 or not slips else _chosen(slips, common, chance)
        papers[name] = {d: _in_own_words(t, chance) for d, t in sheets_with(lab, made).items()}
    names = list(papers)
    if learners > 4:
        papers[names[4]] = dict(papers[names[1]])
    paper = papers[names[7]] if learners > 7 else {}
    if len(paper) > 1:  # a slip may have left one of its sheets out
        one, other = chance.sample(sorted(paper), 2)
        paper[one], paper[other] = paper[other], paper[one]
    return papers


def _names(count: int, chance: random.Random) -> list[str]:
    pairs = [f"{first} {last}" for first in _FIRST for last in _LAST]
    chosen = chance.sample(pairs, min(count, len(pairs)))
    return chosen + [f"Learner {n}" for n in range(len(pairs) + 1, count + 1)]


def _chosen(slips: list[MadeSlip], common: list[MadeSlip], chance: random.Random) -> list[MadeSlip]:
    """Choose one to three slips that can be made together, kinds that are rare in the lab as likely as others; first of
    those that are common, each as one learner in three has it."""
    kinds: dict[str, list[MadeSlip]] = {}
    for slip in slips:
        kinds.setdefault(slip.what, []).append(slip)
    chosen: list[MadeSlip] = []
    for slip in common:
        if chance.random() < _COMMON and may_go_together([*chosen, slip]):
            chosen.append(slip)
    if chosen:
        return chosen
    for what in chance.sample(sorted(kinds), min(chance.randint(1, _MOST_SLIPS), len(kinds))):
        slip = chance.choice(kinds[what])
        if may_go_together([*chosen, slip]):
            chosen.append(slip)
    return chosen


def _in_own_words(text: str, chance: random.Random) -> str:
    """Vary the spelling: masks in dotted form, other indents, a remark."""
    if chance.random() < 0.3:
        text = re.sub(
            r"\b(address|route) (\d+\.\d+\.\d+\.\d+)/(\d+)",
            lambda m: f"{m[1]} {m[2]} mask {ip_network(f'0.0.0.0/{m[3]}').netmask}",
            text,
        )
    if chance.random() < 0.3:
        text = text.replace("\n  ", "\n\t")
    if chance.random() < 0.2:
        text = f"# last look before handing in\n{text}"
    return text
