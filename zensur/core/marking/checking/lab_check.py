"""Proves a lab before anyone sits it: the model answer is complete, every expectation holds on it."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from ...lab import (
    KEYS,
    Expected,
    ExpectedPing,
    ExpectedService,
    Lab,
    LabError,
    Place,
    Places,
    ReadLab,
    probes,
    read_lab,
)
from ...sheet import Severity
from ...sim import Model
from ..marker import Marker
from ..memo import Memo
from ..paper import Paper, full_paper
from ..reading.chosen import another_choice
from ..shapes import rounded
from .findings import Finding, Findings
from .lab_rules import (
    check_addresses,
    check_counted,
    check_links,
    check_sheets,
    check_variables,
)
from .scheme_rules import (
    check_accepted,
    check_asked_twice,
    check_networks,
    check_routes,
    check_told,
    check_total,
)


@dataclass(frozen=True, slots=True)
class LabCheck:
    """The findings, and what the check counted over all stages.

    ``pings`` and ``services`` are how many the lab lists, ``holding`` how many of both hold on the model
    answer; ``blank`` is what a blank paper earns, ``out_of`` the lab's total; ``variants`` how many sets
    of values were tried.
    """

    findings: tuple[Finding, ...]
    pings: int = 0
    services: int = 0
    holding: int = 0
    blank: float = 0.0
    out_of: float = 0.0
    variants: int = 1

    @property
    def errors(self) -> tuple[Finding, ...]:
        """The findings that have to be mended before the lab is sat."""
        return tuple(f for f in self.findings if f.severity is Severity.ERROR)

    @property
    def notes(self) -> tuple[Finding, ...]:
        """The findings that change nothing."""
        return tuple(f for f in self.findings if f.severity is not Severity.ERROR)


def check_text(text: str) -> LabCheck:
    """Check a lab file: as it is read, then with its variables at both ends and in a sample between."""
    read = read_lab(text)
    if read.lab is None:
        return LabCheck(_in_order([*_unreadable(text, _unexplained(read)), *_of_sheets(read)]))
    tried = probes(read.lab.id, read.lab.variables)
    checks = []
    for values in tried:
        with_values = read if values == read.lab.values else read_lab(text, values)
        if with_values.lab is None:
            checks.append(LabCheck(tuple(_unreadable(text, with_values.errors))))
        else:
            checks.append(check_lab(with_values.lab, with_values.places))
    first = checks[0]
    more = [*_with_other_values(tried, checks), *_with_another_choice(read.lab, first)]
    return replace(first, findings=_in_order([*first.findings, *more]), variants=len(tried))


def check_lab(lab: Lab, places: Places | None = None) -> LabCheck:
    """Check a lab that could be read, stage by stage; ``places`` are those of its text."""
    where = places or Places("", {})
    found: list[Finding] = []
    pings = services = holding = 0
    blank = out_of = 0.0
    for stage in lab.stages:
        findings = Findings(stage, where)
        marker = Marker(stage)
        check_sheets(findings)
        if not stage.answered:
            findings.error(
                "no-model-answer", "answer", "The lab has no model answer, so that there is nothing to prove.",
                "Write the answer; a learner's edition is not meant to be checked.",
            )  # fmt: skip
            found += findings.found
            continue
        memo, model = marker.memo(), marker.facts.model
        score = _check_blank(findings, marker, memo)
        failing = _check_expectations(findings, model)
        check_addresses(findings, model.network)
        _check_full(findings, marker, memo)
        check_links(findings)
        check_counted(findings)
        check_total(findings, marker.facts)
        check_asked_twice(findings, marker.facts)
        check_accepted(findings, marker.facts)
        check_networks(findings, model.network)
        check_routes(findings, model.network)
        check_told(findings)
        if places is not None and stage.before is None:
            check_variables(findings)
        found += findings.found
        pings, services = pings + len(stage.pings), services + len(stage.services)
        holding += len(stage.expected) - failing
        blank, out_of = blank + score, out_of + marker.facts.out_of
    return LabCheck(_in_order(found), pings, services, holding, rounded(blank), rounded(out_of))


def _unreadable(text: str, errors: Iterable[LabError]) -> Iterator[Finding]:
    lines = text.split("\n")
    for error in errors:
        line = lines[error.line - 1] if error.line <= len(lines) else ""
        at = Place(error.line, error.column, max(error.column, len(line.rstrip())))
        yield Finding(Severity.ERROR, "lab-file", error.place, error.message, "", at)


def _unexplained(read: ReadLab) -> list[LabError]:
    """Return the errors but for those about what a sheet of the model answer would hold, could it be read."""
    stages = read.draft.stages if read.draft else ()
    wrong = [re.escape(name) for stage in stages for name, sheet in stage.answer.items() if sheet.errors]
    if not wrong:
        return list(read.errors)
    of_it = re.compile(rf"The model answer .*(?<![\w.-])({'|'.join(wrong)})(?![\w-]|\.\w)")
    return [e for e in read.errors if not of_it.match(e.message)]


def _of_sheets(read: ReadLab) -> Iterator[Finding]:
    """Return the errors in the sheets of a file that cannot be used: they may well be the reason."""
    for stage in read.draft.stages if read.draft else ():
        findings = Findings(stage, read.places)
        check_sheets(findings)
        yield from (f for f in findings.found if f.severity is Severity.ERROR)


def _in_order(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Put errors first, each kind in the order of the text; the same finding counts once."""
    unique = list(dict.fromkeys(findings))
    return tuple(sorted(unique, key=lambda f: (f.severity is not Severity.ERROR, f.at.line, f.at.column)))


def _with_other_values(tried: list[dict[str, int]], checks: list[LabCheck]) -> Iterator[Finding]:
    """Return the errors that only other values of the variables bring, with the values."""
    known = {(f.code, f.place) for f in checks[0].findings}
    for values, check in zip(tried[1:], checks[1:], strict=True):
        shown = ", ".join(f"{name} = {value}" for name, value in values.items())
        for finding in check.errors:
            if (finding.code, finding.place) not in known:
                known.add((finding.code, finding.place))
                yield replace(finding, message=f"With {shown}: {finding.message}")


def _with_another_choice(lab: Lab, first: LabCheck) -> Iterator[Finding]:
    """Return the errors that only another choice of what is free brings, with that choice."""
    if not lab.free:
        return
    choice = another_choice(lab)
    read = read_lab(lab.text, lab.values, choice)
    check = (
        check_lab(read.lab, read.places) if read.lab else LabCheck(tuple(_unreadable(lab.text, read.errors)))
    )
    known = {(f.code, f.place) for f in first.findings}
    pairs = (*choice.networks, *choice.addresses)
    shown = ", ".join(f"{mine} for {planned}" for planned, mine in pairs[:4])
    for finding in check.errors:
        if (finding.code, finding.place) not in known:
            yield replace(finding, message=f"Where a learner chooses {shown}: {finding.message}")


def _check_expectations(findings: Findings, model: Model) -> int:
    """Report pings and checks that do not end on the model answer as they should; returns how many."""
    failing = 0
    for key, listed in (("ping", model.lab.pings), ("check", model.lab.services)):
        for number, asked in enumerate(listed):
            ran, row = model.runs[f"{key}:{asked.id}"], model.rows[f"{key}:{asked.id}"]
            if ran.as_expected:
                continue
            failing += 1
            came_of = f"{row.outcome}: {row.detail}"
            if ran.outcome_fits and row.seen_as is not None:
                came_of = f"{row.answered_by} sees it as {row.seen_as}"
            findings.error(
                "expectation-fails", f"{'pings' if key == 'ping' else 'services'}[{number}]",
                f"{asked.sender} to {_target(asked)} is to be {asked.expect}, and on the model answer it is {came_of}.",
                "Mend the model answer, or expect what it does.",
            )  # fmt: skip
    return failing


def _target(asked: Expected) -> str:
    if isinstance(asked, ExpectedPing):
        return asked.to
    assert isinstance(asked, ExpectedService)
    return asked.open or f"the name {asked.resolve}"


def _check_blank(findings: Findings, marker: Marker, memo: Memo) -> float:
    """Report a blank paper that earns marks, and criteria that it meets already; returns what it earns."""
    earned = marker.earned(Paper("", {}), memo).earned
    score = rounded(sum(c.marks * earned[i] for i, _, c in marker.facts.criteria))
    if score:
        findings.error(
            "blank-paper-scores", "scheme", f"A blank paper earns {score:g} marks.",
            "Ask for something that is not given."
        )  # fmt: skip
    guarded = marker.guard.guarded
    if guarded:
        some = ", ".join(guarded[:5]) + (f" and {len(guarded) - 5} more" if len(guarded) > 5 else "")
        findings.note(
            "guarded-criterion", "scheme",
            f"What is given meets {some} already: {'they count' if len(guarded) > 1 else 'it counts'} only once the "
            "learner's device has met something else.",
        )  # fmt: skip
    return score


def _check_full(findings: Findings, marker: Marker, memo: Memo) -> None:
    """Report criteria that the model answer itself does not meet."""
    full = marker.earned(full_paper(marker.lab), memo)
    for ident, _, criterion in marker.facts.criteria:
        if criterion.is_run or KEYS[criterion.key].of_paper or full.earned[ident] == 1:
            continue
        judged = full.judged[ident]
        findings.error(
            "model-answer-misses", f"answer.{criterion.device}" if criterion.device else "scheme",
            f"The model answer itself does not meet {ident}: required {judged.required}, found {judged.found}.",
            "Complete the model answer, or leave the criterion out.",
        )  # fmt: skip
