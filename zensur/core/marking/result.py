"""What marking says of one paper, and its JSON in the shape of ``mark --json``."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from decimal import ROUND_HALF_UP, Decimal
from json import dumps
from typing import Any

from ..sheet import Diagnostic, Sheet, Where


@dataclass(frozen=True, slots=True)
class Paper:
    """One learner's hand-in: sheets by device, and what was noticed while its files were sorted."""

    learner: str
    sheets: Mapping[str, Sheet]
    files: Mapping[str, str] = field(default_factory=dict)
    """The file of each device's sheet."""
    remarks: tuple[str, ...] = ()
    answers: Mapping[str, tuple[str, Where]] = field(default_factory=dict)
    """What was answered to questions, and in which line."""


@dataclass(frozen=True, slots=True)
class Judged:
    """A criterion compared: a fraction from 0 to 1, what was required and found, and the lines that prove it."""

    fraction: float
    required: str
    found: str
    lines: tuple[Where, ...] = ()


@dataclass(frozen=True, slots=True)
class Marked:
    """A criterion marked. ``fault`` is the number of the fault behind a loss, ``note`` says more."""

    id: str
    task: str
    device: str
    marks: float
    judged: Judged
    fraction: float
    fault: int | None = None
    carried: bool = False
    note: str = ""

    @property
    def verdict(self) -> str:
        """``met``, ``partly`` or ``missed``."""
        return verdict_of(self.fraction)


@dataclass(frozen=True, slots=True)
class Fault:
    """A root mistake: its slip, where it is, what would mend it, and what follows from it.

    ``said`` is the sentence for the learner, ``told`` the instructor's; ``also`` are further lines of the same mistake.
    """

    id: int
    slip: str
    title: str
    said: str
    told: str
    device: str
    port: str | None
    file: str | None
    line: int | None
    found: str | None
    required: str | None
    repair: str
    direct: float
    consequences: tuple[str, ...]
    also: tuple[Where, ...] = ()

    @property
    def in_a_sentence(self) -> str:
        """Return the title as it stands within a sentence: small, but for an abbreviation."""
        return self.title if self.title[:2].isupper() else self.title[0].lower() + self.title[1:]


@dataclass(frozen=True, slots=True)
class Extra:
    """A statement beyond what was asked; ``changes`` says whether the network would do otherwise without it."""

    device: str
    file: str | None
    line: int | None
    found: str
    changes: bool
    charged: float = 0.0


@dataclass(frozen=True, slots=True)
class Result:
    """A marked paper. ``score`` is the sum as it stands, ``carried`` charges each fault once."""

    learner: str
    score: float
    carried: float
    out_of: float
    criteria: tuple[Marked, ...]
    faults: tuple[Fault, ...]
    diagnostics: tuple[tuple[str, str, Diagnostic], ...]
    pings: tuple[dict[str, Any], ...]
    services: tuple[dict[str, Any], ...] = ()
    remarks: tuple[str, ...] = ()
    extras: tuple[Extra, ...] = ()
    percent: float = 0.0
    """The mark as a percentage: of what each mistake costs once, where the scheme carries forward."""
    grade: str | None = None

    def text(self) -> str:
        """Write the paper's entry in ``mark --json`` as JSON: the same paper marked again gives the same bytes."""
        return dumps(self.json(), ensure_ascii=False)

    def json(self) -> dict[str, Any]:
        """Return the paper's entry in ``mark --json``."""
        return {
            "learner": self.learner,
            "score": self.score,
            "carried": self.carried,
            "out_of": self.out_of,
            "percent": self.percent,
            "grade": self.grade,
            "criteria": [_criterion(marked) for marked in self.criteria],
            "faults": [{**asdict(f), "consequences": list(f.consequences)} for f in self.faults],
            "extras": [asdict(extra) for extra in self.extras],
            "diagnostics": [
                {
                    "device": device,
                    "file": file,
                    "line": d.line,
                    "severity": d.severity.value,
                    "code": d.code,
                    "message": d.message,
                }
                for device, file, d in self.diagnostics
            ],
            "pings": list(self.pings),
            "services": list(self.services),
            "remarks": list(self.remarks),
        }


def _criterion(marked: Marked) -> dict[str, Any]:
    return {
        "id": marked.id,
        "task": marked.task,
        "device": marked.device,
        "verdict": marked.verdict,
        "fraction": marked.fraction,
        "marks": marked.marks,
        "required": marked.judged.required,
        "found": marked.judged.found,
        "lines": [{"file": w.file, "line": w.line} for w in marked.judged.lines],
        "fault": marked.fault,
        "carried": marked.carried,
        "note": marked.note,
    }


def verdict_of(fraction: float) -> str:
    """Return ``met``, ``partly`` or ``missed``."""
    return "met" if fraction == 1 else "partly" if fraction else "missed"


def rounded(marks: float) -> float:
    """Round half up to 0.01, at the end only."""
    return float(Decimal(repr(marks)).quantize(Decimal("0.01"), ROUND_HALF_UP))
