"""The last step of marking: marks are added up and rounded, and what came of every ping is told."""

from collections.abc import Iterator
from itertools import islice

from ..sheet import comment_in
from ..sim import OpenedRow, PingRow, ResolvedRow
from .charged import Charged
from .session import Session
from .shapes import Result, SheetComment, SheetRemark, rounded

MOST_COMMENTS, MOST_LETTERS = 100, 120
"""So many comments of a paper are kept, and so much of each."""
CUT_SHORT = (
    "The search for mistakes was cut short, for the paper holds far more than the lab asks for; "
    "verdicts and marks stand."
)


def result_of(charged: Charged) -> Result:
    """Add up, round, and tell what came of every ping."""
    session = charged.session
    scheme, out_of = session.lab.scheme, session.facts.out_of
    percent = rounded(100 * charged.carried / out_of) if out_of else 0.0
    rows = [session.paper.row(ident) for ident in session.lab.expected]
    return Result(
        learner=session.sheets.paper.learner,
        score=rounded(charged.score),
        carried=rounded(charged.carried),
        out_of=rounded(out_of),
        percent=percent,
        grade=scheme.grade(percent),
        criteria=charged.criteria,
        faults=charged.faults,
        extras=charged.extras,
        diagnostics=tuple(_remarks(session)),
        pings=tuple(r for r in rows if isinstance(r, PingRow)),
        services=tuple(r for r in rows if isinstance(r, OpenedRow | ResolvedRow)),
        remarks=(*session.sheets.paper.remarks, *([CUT_SHORT] if charged.cut_short else [])),
        cut_short=charged.cut_short,
        sheet_comments=tuple(islice(_comments(session), MOST_COMMENTS)),
    )


def _remarks(session: Session) -> Iterator[SheetRemark]:
    paper = session.sheets.paper
    for name, sheet in paper.sheets.items():
        file = paper.files.get(name, "")
        for d in session.memo.reader.remarks(name, sheet):
            yield SheetRemark(name, file, d.line, d.severity.value, d.code, d.message)


def _comments(session: Session) -> Iterator[SheetComment]:
    """Yield the comments of a paper, each of a sheet once."""
    for name, sheet in session.sheets.paper.sheets.items():
        if sheet.form == "sheet" and "#" in sheet.text:
            written = (comment_in(line)[:MOST_LETTERS] for line in sheet.text.splitlines())
            yield from (SheetComment(name, text) for text in dict.fromkeys(written) if text)
