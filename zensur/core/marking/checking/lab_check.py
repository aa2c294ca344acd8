"""Proves a lab before anyone sits it: the model answer is complete, every expectation holds on it."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from ...lab import Lab, LabError, Place, Places, ReadLab, probes, read_lab
from ...sheet import Severity
from ...sim import Checked, Run, ending, written
from ...sim.running.targets import answered_by
from ..mark import Marker
from ..result import Paper, rounded
from .findings import Finding, Findings
from .lab_rules import (
    check_addresses,
    check_counted,
    check_links,
    check_sheets,
    check_variables,
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
        return LabCheck(_in_order([*_unreadable(text, read.errors), *_of_sheets(read)]))
    tried = probes(read.lab.id, read.lab.variables)
    checks = []
    for values in tried:
        with_values = read_lab(text, values)
        if with_values.lab is None:
            checks.append(LabCheck(tuple(_unreadable(text, with_values.errors))))
        else:
            checks.append(check_lab(with_values.lab, with_values.places))
    first = checks[0]
    more = list(_with_other_values(tried, checks))
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
        score = marker.mark(Paper("", {})).score
        check_sheets(findings)
        if not stage.answered:
            findings.error(
                "no-model-answer", "answer", "The lab has no model answer, so that there is nothing to prove.",
                "Write the answer; a learner's edition is not meant to be checked.",
            )  # fmt: skip
            found += findings.found
            continue
        failing = _check_expectations(findings, marker)
        check_addresses(findings, marker.judge.model.network)
        _check_blank(findings, marker, score)
        _check_full(findings, marker)
        check_links(findings)
        check_counted(findings)
        if places is not None and stage.before is None:
            check_variables(findings)
        found += findings.found
        pings, services = pings + len(stage.pings), services + len(stage.services)
        holding += len(stage.expected) - failing
        blank, out_of = blank + score, out_of + marker.out_of
    return LabCheck(_in_order(found), pings, services, holding, rounded(blank), rounded(out_of))


def _unreadable(text: str, errors: Iterable[LabError]) -> Iterator[Finding]:
    lines = text.split("\n")
    for error in errors:
        line = lines[error.line - 1] if error.line <= len(lines) else ""
        at = Place(error.line, error.column, max(error.column, len(line.rstrip())))
        yield Finding(Severity.ERROR, "lab-file", error.place, error.message, "", at)


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
        said = ", ".join(f"{name} = {value}" for name, value in values.items())
        for finding in check.errors:
            if (finding.code, finding.place) not in known:
                known.add((finding.code, finding.place))
                yield replace(finding, message=f"With {said}: {finding.message}")


def _check_expectations(findings: Findings, marker: Marker) -> int:
    """Report pings and checks that do not end on the model answer as they should; returns how many."""
    failing = 0
    network = marker.judge.model.network
    for key, listed in (("ping", marker.lab.pings), ("check", marker.lab.services)):
        for number, asked in enumerate(listed):
            ran = marker.judge.model_runs[f"{key}:{asked.id}"]
            if ran.as_expected:
                continue
            failing += 1
            if isinstance(ran, Checked):
                said = f"{ran.outcome.value}: {ran.detail}"
                what = ran.asked.open or f"the name {ran.asked.resolve}"
            else:
                said = f"{ran.result.outcome.value}: {ending(network, ran.result)}"
                what = ran.asked.to if isinstance(ran, Run) else ""
            if ran.outcome_fits and ran.result.seen_as is not None:
                said = f"{answered_by(network, ran.result)} sees it as {written(ran.result.seen_as)}"
            findings.error(
                "expectation-fails", f"{'pings' if key == 'ping' else 'services'}[{number}]",
                f"{asked.sender} to {what} is to be {asked.expect}, and on the model answer it is {said}.",
                "Mend the model answer, or expect what it does.",
            )  # fmt: skip
    return failing


def _check_blank(findings: Findings, marker: Marker, score: float) -> None:
    """Report a blank paper that earns marks, and criteria that it meets already."""
    if score:
        findings.error(
            "blank-paper-scores", "scheme", f"A blank paper earns {score:g} marks.", "Ask for something that is not given."
        )  # fmt: skip
    guarded = marker.guarded
    if guarded:
        some = ", ".join(guarded[:5]) + (f" and {len(guarded) - 5} more" if len(guarded) > 5 else "")
        findings.note(
            "guarded-criterion", "scheme",
            f"What is given meets {some} already: {'they count' if len(guarded) > 1 else 'it counts'} only once the "
            "learner's device has met something else.",
        )  # fmt: skip


def _check_full(findings: Findings, marker: Marker) -> None:
    """Report criteria that the model answer itself does not meet."""
    full = marker.mark(Paper("", marker.lab.full_paper))
    for criterion in full.criteria:
        asked = criterion.id.split(":")[0] not in ("manual", "value")
        if asked and criterion.fraction < 1 and criterion.id.split("#")[0] not in marker.lab.expected:
            findings.error(
                "model-answer-misses", f"answer.{criterion.device}" if criterion.device else "scheme",
                f"The model answer itself does not meet {criterion.id}: required {criterion.judged.required}, "
                f"found {criterion.judged.found}.",
                "Complete the model answer, or leave the criterion out.",
            )  # fmt: skip
