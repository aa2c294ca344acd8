"""Proves a lab before anyone sits it: the model answer is complete, every expectation holds on it."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..lab import Lab, check_sheet
from ..sheet import Severity
from ..sim import ending
from .mark import Marker
from .result import Paper


@dataclass(frozen=True, slots=True)
class Finding:
    """What is wrong in a lab: its severity, the place, a sentence, and what would mend it."""

    severity: Severity
    code: str
    place: str
    message: str
    mend: str


@dataclass(frozen=True, slots=True)
class LabCheck:
    """The findings, and what the check counted."""

    findings: tuple[Finding, ...]
    pings: int
    holding: int
    blank: float
    out_of: float

    @property
    def errors(self) -> tuple[Finding, ...]:
        """The findings that have to be mended before the lab is sat."""
        return tuple(f for f in self.findings if f.severity is Severity.ERROR)


def check_lab(lab: Lab) -> LabCheck:
    """Check a lab that could be read."""
    marker = Marker(lab)
    blank = marker.mark(Paper("", {}))
    pings = list(_pings(marker))
    findings = [*_sheets(lab), *pings, *_duplicates(marker), *_blank(blank.score), *_full(marker)]
    return LabCheck(
        tuple(findings), len(lab.pings), len(lab.pings) - len(pings), blank.score, round(marker.out_of, 2)
    )


def _sheets(lab: Lab) -> Iterator[Finding]:
    for key, sheets in (("given", lab.given), ("answer", lab.answer)):
        for name, sheet in sheets.items():
            for d in (*sheet.diagnostics, *check_sheet(sheet.configuration, lab.devices[name])):
                yield Finding(
                    d.severity, d.code, f"{key}.{name} line {d.line}", d.message, d.suggestion or ""
                )


def _pings(marker: Marker) -> Iterator[Finding]:
    for number, ping in enumerate(marker.lab.pings):
        ran = marker.judge.model_runs[ping.id]
        if not ran.as_expected:
            said = ending(marker.judge.model.network, ran.result)
            yield Finding(
                Severity.ERROR,
                "expectation-fails",
                f"pings[{number}]",
                f"{ping.sender} to {ping.to} is to be {ping.expect}, and on the model answer it is "
                f"{ran.result.outcome.value}: {said}.",
                "Mend the model answer, or expect what it does.",
            )


def _duplicates(marker: Marker) -> Iterator[Finding]:
    network = marker.judge.model.network
    holders: dict[tuple[int, int], str] = {}
    for number, device in enumerate(network.devices):
        for port in network.up_ports(number):
            for address in port.addresses:
                key = (network.wiring.cluster[port.port] if port.port >= 0 else -1 - number, address.address)
                place = f"{device.name}:{port.name}"
                if key in holders:
                    yield Finding(
                        Severity.ERROR,
                        "duplicate-address",
                        f"answer.{device.name}",
                        f"{holders[key]} and {place} have the same address in one network.",
                        "Give one of them another address.",
                    )
                holders[key] = place


def _blank(score: float) -> Iterator[Finding]:
    if score:
        yield Finding(
            Severity.ERROR,
            "blank-paper-scores",
            "scheme",
            f"A blank paper earns {score:g} marks.",
            "Ask for something that is not given.",
        )


def _full(marker: Marker) -> Iterator[Finding]:
    full = marker.mark(Paper("", marker.lab.answer))
    for criterion in full.criteria:
        if criterion.fraction < 1 and not criterion.id.startswith("ping:"):
            yield Finding(
                Severity.ERROR,
                "model-answer-misses",
                criterion.id,
                f"The model answer itself does not meet {criterion.id}: required {criterion.judged.required}, "
                f"found {criterion.judged.found}.",
                "Complete the model answer, or leave the criterion out.",
            )
