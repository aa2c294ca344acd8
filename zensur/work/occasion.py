"""An occasion: what papers are handed in for, which is a sitting, or a stage of a lab without one."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from ..core.lab import Lab
from ..core.sittings import Rules, pseudonym
from ..store import LabVersion, Scope, Seat, Sitting

NO_RULES = Rules()


@dataclass(frozen=True, slots=True)
class Occasion:
    """What papers are handed in for: which version and stage of a lab, which papers are of it, and whose.

    ``lab`` has the values that its variables begin with; a learner's own numbers are with the paper.
    """

    version: LabVersion
    lab: Lab
    scope: Scope
    sitting: Sitting | None = None
    seats: Mapping[str, tuple[Seat, ...]] = field(default_factory=dict)
    """The seats by their holders: one each, or those of a team."""

    @classmethod
    def of_sitting(cls, sitting: Sitting, version: LabVersion, lab: Lab) -> "Occasion":
        """Return the occasion that a sitting is."""
        seats: dict[str, tuple[Seat, ...]] = {}
        for seat in sitting.seats:
            seats[seat.holder] = (*seats.get(seat.holder, ()), seat)
        return cls(version, lab, Scope(sitting.slug, (lab.stage,), sitting.id), sitting, seats)

    @property
    def name(self) -> str:
        """What a run of it is known by."""
        return (
            f"sitting {self.sitting.id}"
            if self.sitting
            else f"lab {self.version.slug} {self.lab.stage}".strip()
        )

    @property
    def title(self) -> str:
        """What it is called on paper."""
        lab = f"{self.lab.title}: {self.lab.stage_title}" if self.lab.stage else self.lab.title
        return f"{self.sitting.settings.title}: {lab}" if self.sitting else lab

    @property
    def rules(self) -> Rules:
        """The rules that decide which paper counts; without a sitting it is the last."""
        return self.sitting.settings.rules if self.sitting else NO_RULES

    @property
    def blind(self) -> bool:
        """Whether nobody is to know whose a paper is, as long as the marks are held."""
        return self.sitting is not None and self.sitting.settings.blind and self.sitting.released_at is None

    def called(self, holder: str) -> str:
        """Return what the holder of a paper is called on the screen and on paper."""
        if self.sitting is None:
            return holder
        if self.blind:
            return pseudonym(self.sitting.secret, holder)
        seats = self.seats.get(holder, ())
        names = ", ".join(seat.learner.name for seat in seats)
        return f"{seats[0].learner.team}: {names}" if len(seats) > 1 else names or holder

    def drawn(self, holder: str) -> Mapping[str, int]:
        """Return the numbers of a paper's holder for the lab's variables; those of a team are its first member's."""
        seats = self.seats.get(holder, ())
        return seats[0].drawn if seats else {}
