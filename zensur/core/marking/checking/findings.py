"""What a lab check finds: how grave, where in the lab file, in a sentence, and what would mend it."""

from dataclasses import dataclass, field

from ...lab import Lab, Place, Places
from ...sheet import Diagnostic, Mend, Severity


@dataclass(frozen=True, slots=True)
class Finding:
    """One finding. ``place`` names it, ``at`` is where it stands in the lab's text.

    ``edit`` mends it, in the lines and columns of the lab's text, where the mend is certain.
    """

    severity: Severity
    code: str
    place: str
    message: str
    mend: str = ""
    at: Place = field(default_factory=lambda: Place(1, 1, 1))
    edit: Mend | None = None


class Findings:
    """Collects the findings of one lab or stage; the same one counts once."""

    def __init__(self, lab: Lab, places: Places) -> None:
        self.lab = lab
        self.places = places
        self.prefix = f"stages[{len(lab.stages) - 1}]." if lab.stage else ""
        self.found: list[Finding] = []

    def add(self, severity: Severity, code: str, place: str, message: str, mend: str = "") -> None:
        """Add a finding at a place of the lab or stage, such as ``pings[0]``."""
        whole = (
            place
            if place.split(".", maxsplit=1)[0].split("[", maxsplit=1)[0] in _AT_TOP
            else self.prefix + place
        )
        self.found.append(Finding(severity, code, whole, message, mend, self.places.find(whole)))

    def error(self, code: str, place: str, message: str, mend: str = "") -> None:
        """Add something that has to be mended before the lab is sat."""
        self.add(Severity.ERROR, code, place, message, mend)

    def note(self, code: str, place: str, message: str, mend: str = "") -> None:
        """Add something worth knowing that changes nothing."""
        self.add(Severity.NOTE, code, place, message, mend)

    def in_sheet(self, severity: Severity, place: str, remark: Diagnostic) -> None:
        """Add a remark on a line of a sheet; ``place`` is the sheet's, such as ``answer.weir``."""
        at = self.places.in_sheet(place, remark.line, remark.column, remark.end)
        mend, edit = remark.mend, None
        if mend is not None:
            there = self.places.in_sheet(place, mend.line, mend.column, mend.end)
            typed = self.places.lines[there.line - 1] if there.line <= len(self.places.lines) else ""
            if (
                there.line > self.places.find(place).line and "${" not in typed
            ):  # else columns are not those read
                edit = Mend(there.line, there.column, there.end, mend.text)
        self.found.append(
            Finding(
                severity,
                remark.code,
                f"{place} line {remark.line}",
                remark.message,
                remark.suggestion or "",
                at,
                edit,
            )
        )


_AT_TOP = frozenset(
    (
        "devices",
        "links",
        "networks",
        "variables",
        "start",
        "hidden",
        "topics",
        "brief",
        "title",
        "id",
        "stages",
    )
)
