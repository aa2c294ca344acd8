"""What marking says of one paper: the shapes of ``mark --json`` and of the server."""

from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from json import loads
from typing import Any, Literal

from ..jsonable import to_json
from ..sheet import AnyItem, Where
from ..sim import OpenedRow, PingRow, ResolvedRow

Verdict = Literal["met", "partly", "missed"]


@dataclass(frozen=True, slots=True)
class Judged:
    """A criterion compared: a fraction from 0 to 1, what was required and found, and what proves it.

    ``proof`` are statements of the learner's configuration of the criterion's device, ``at`` further lines.
    """

    fraction: float
    required: str
    found: str
    proof: tuple[AnyItem, ...] = ()
    at: tuple[Where, ...] = ()

    @property
    def lines(self) -> tuple[Where, ...]:
        """The lines that prove it, each once."""
        return tuple(dict.fromkeys([*(i.where for i in self.proof if i.where is not None), *self.at]))


@dataclass(frozen=True, slots=True)
class Overruled:
    """What the instructor decided otherwise: the marks, why, and what it was before."""

    marks: float
    reason: str
    was: float


@dataclass(frozen=True, slots=True)
class LateCharge:
    """What being late costs: the days begun, the per cent that they take off the total, and the marks that this is."""

    days: int
    percent: float
    marks: float


@dataclass(frozen=True, slots=True)
class Cost:
    """What of a criterion's lost marks a mistake costs directly, by the mistake's number."""

    fault: int
    marks: float


@dataclass(frozen=True, slots=True)
class Marked:
    """A criterion marked. ``fault`` is the number of the fault behind a loss, ``note`` says more.

    ``key``, ``operand`` and ``instance`` say what its id says, taken apart. ``costs`` say which mistakes the lost marks
    belong to; what is carried costs nothing.
    """

    id: str
    task: str
    key: str
    device: str
    operand: str
    instance: str
    marks: float
    required: str
    found: str
    lines: tuple[Where, ...]
    fraction: float
    verdict: Verdict
    fault: int | None = None
    carried: bool = False
    note: str = ""
    overruled: Overruled | None = None
    costs: tuple[Cost, ...] = ()


@dataclass(frozen=True, slots=True)
class Fault:
    """A root mistake: its slip, where it is, what would mend it, and what follows from it.

    ``said`` is the sentence for the learner, ``told`` the instructor's; ``also`` are further lines of the same mistake.
    ``whole`` says that it is about a whole sheet; ``block`` is the header that its statement stands below, or is.
    ``missing`` are the lines to be put into the sheet where several are missing, with their headers.
    ``in_form`` is the repair in the form of the file, where that is no sheet: data, or commands for a machine.
    ``in_front_of`` is the line that the repair has to stand in front of, where the first that fits decides.
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
    whole: bool = False
    block: str | None = None
    missing: tuple[str, ...] = ()
    in_form: str = ""
    in_front_of: Where | None = None

    @property
    def what(self) -> tuple[str | None, ...]:
        """What tells it from the other mistakes of a paper, whatever their order."""
        return self.slip, self.device, self.port, self.block, self.found, self.required, self.repair

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
class SheetRemark:
    """A diagnostic of one of the paper's sheets."""

    device: str
    file: str
    line: int
    severity: Literal["error", "warning", "note"]
    code: str
    message: str


@dataclass(frozen=True, slots=True)
class SheetComment:
    """A comment in a sheet, as its writer put it behind the ``#``, blanks aside."""

    device: str
    text: str


@dataclass(frozen=True, slots=True)
class Result:
    """A marked paper. ``score`` is the sum as it stands, ``carried`` charges each fault once.

    ``percent`` is of ``carried``. ``cut_short`` says that the search for mistakes was ended before its end: verdicts
    and marks stand.
    """

    learner: str
    score: float
    carried: float
    out_of: float
    percent: float
    grade: str | None
    criteria: tuple[Marked, ...]
    faults: tuple[Fault, ...]
    extras: tuple[Extra, ...]
    diagnostics: tuple[SheetRemark, ...]
    pings: tuple[PingRow, ...]
    services: tuple[OpenedRow | ResolvedRow, ...]
    remarks: tuple[str, ...]
    cut_short: bool = False
    overruled: Overruled | None = None
    late: LateCharge | None = None
    sheet_comments: tuple[SheetComment, ...] = ()

    def text(self) -> str:
        """Write the paper's entry in ``mark --json`` as JSON: the same paper marked again gives the same bytes."""
        return to_json(self)

    def json(self) -> dict[str, Any]:
        """Return the paper's entry in ``mark --json`` as it is read again."""
        found: dict[str, Any] = loads(self.text())
        return found


def verdict_of(fraction: float) -> Verdict:
    """Return ``met``, ``partly`` or ``missed``."""
    return "met" if fraction == 1 else "partly" if fraction else "missed"


def rounded(marks: float) -> float:
    """Round half up to 0.01, at the end only."""
    return float(Decimal(repr(marks)).quantize(Decimal("0.01"), ROUND_HALF_UP))
