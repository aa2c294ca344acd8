"""The demo class: thirty made-up learners with papers for three of the demo labs.

Slips recur as they do in real classes; one paper is copied, one late, one has a file that belongs to nothing, and some
things were decided and written about them. All of it is drawn from fixed seeds, at fixed times.
"""

from collections.abc import Sequence
from datetime import datetime, timedelta

from ..core.formats import File, HandIn
from ..core.marking.making.papers import sample_class
from ..core.sittings import Learner, Rules
from ..store import By, NewArrival, Settings
from ..work.desk import Desk
from ..work.numbers import seat_newcomers
from ..work.occasion import Occasion

GROUP = "Harbour class, autumn"
MEMBERS = (
    "Arvid Holm", "Birte Quast", "Carsta Ivens", "Dorin Aalder", "Edda Krohn", "Fedor Wiese", "Gesine Brand",
    "Halvar Voss", "Inken Lüders", "Jaro Mielke", "Kaja Ehmke", "Lorin Haas", "Merle Uhde", "Nele Stamm",
    "Orla Jahnke", "Pelle Grandt", "Quirin Fock", "Runa Oest", "Silja Dahl", "Tjark Nissen", "Ulla Rohde",
    "Veit Kroog", "Wanja Thoms", "Xenia Clasen", "Yorick Zacher", "Zita Ohlsen", "Mika Feld", "Senta Vogt",
    "Tove Lind", "Ylva Sand",
)  # fmt: skip
RECURRING = 3
NOTES = {
    "weir": "towards the lock, as on the board",
    "lock": "p2 was upside down, now right",
    "quay": "ask about the loopback",
    "gauge": "the plan says .20",
}
"""What the writer of the paper that is copied put into the sheets, and the copy still has."""
CLOSES = datetime.fromisoformat("2026-11-20T12:00:00+00:00")


def fill_class(desk: Desk) -> None:
    """Put the group, its sittings and their papers on a desk that has the demo labs and no group yet."""
    if desk.groups.all():
        return
    learners = [
        Learner(code=str(4711 + n), name=name, export_id=f"A{n + 1:02}") for n, name in enumerate(MEMBERS)
    ]
    desk.groups.add(GROUP, learners)
    first = _sitting(
        desk, "first-addresses", "Week 2: first addresses", learners, Rules(closes=CLOSES, counts="best")
    )
    own = _sitting(desk, "gauge-houses", "Week 3: numbers of one's own", learners[:24], Rules(closes=CLOSES))
    gates = _sitting(
        desk,
        "four-gates",
        "Week 5: four gates",
        learners,
        Rules(closes=CLOSES, late="charged", percent=10),
        blind=True,
    )
    _hand_in(desk, first, learners, 7, copied=(12, 9))
    _hand_in(desk, own, learners[:20], 8, copied=(6, 2))
    _hand_in(desk, gates, learners[:28], 9)
    _decide(desk, first)
    assert first.sitting is not None
    desk.sittings.release(first.sitting.id, True, By(reason="All papers were looked at."))


def _sitting(
    desk: Desk, slug: str, title: str, learners: Sequence[Learner], rules: Rules, blind: bool = False
) -> Occasion:
    version = desk.labs.newest(slug)
    assert version is not None
    settings = Settings(title=title, rules=rules, blind=blind)
    sitting = desk.sittings.get(desk.sittings.add(version.key, desk.lab(version).stage, settings))
    assert sitting is not None
    return desk.occasion_of(seat_newcomers(desk, sitting, [(GROUP, own) for own in learners]))


def _hand_in(
    desk: Desk,
    occasion: Occasion,
    learners: Sequence[Learner],
    seed: int,
    copied: tuple[int, int] | None = None,
) -> None:
    """Hand in a paper for each learner, a minute after each other, the last one late and with a file too much; the
    first of ``copied`` hands in the second's, with the notes in it."""
    made: dict[str, list[dict[str, str]]] = {}
    for n, learner in enumerate(learners):
        of = copied[1] if copied and copied[0] == n else n
        drawn = occasion.drawn(learners[of].code)
        if str(drawn) not in made:
            lab = desk.lab(occasion.version, occasion.lab.stage, drawn)
            made[str(drawn)] = list(sample_class(lab, len(learners), seed, recurring=RECURRING).values())
        sheets = made[str(drawn)][of]
        if copied and n in copied:
            sheets = {
                device: f"{text}# {NOTES[device]}\n" if device in NOTES else text
                for device, text in sheets.items()
            }
        files = {d: File(f"{d}.sheet", text.encode()) for d, text in sheets.items()}
        last = n == len(learners) - 1
        remarks = ("notes.docx belongs to no device of the lab and was not read.",) if last else ()
        received = CLOSES + (timedelta(hours=30) if last else timedelta(minutes=n) - timedelta(hours=3))
        arrival = NewArrival(
            "upload", [(f.path, f.content) for f in files.values()], remarks, received.isoformat()
        )
        desk.hand_in(occasion, [HandIn(learner.code, files, remarks)], None, arrival, received.isoformat())


def _decide(desk: Desk, occasion: Occasion) -> None:
    """Overrule something, and write about it, as an instructor does."""
    papers = desk.papers.last(occasion.scope)
    by = By(reason="Shown to work in the lesson.")
    desk.overrules.add(papers[5].id, "ping:7", 1.0, by)
    desk.comments.add(
        papers[5].id, "You showed this at the machine: well done. Write the gateway down next time."
    )
    desk.comments.add(papers[9].id, "Look at the mask of p2 once more.", device="weir", line=4)
