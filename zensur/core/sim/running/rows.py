"""What came of pings and service checks, as rows: the shapes of ``ping --json``, of the server and of marked papers."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from ...jsonable import JSON_NAMES
from ...lab import Answer, Expected, ExpectedPing, ExpectedService, Outcome
from ..explaining.ending import ending
from ..network import Network
from ..numbers import written
from ..packets import Reason
from .expectations import AnyRun, Runs
from .services import Checked
from .targets import answered_by


@dataclass(frozen=True, slots=True, kw_only=True)
class _Row:
    """What the rows of pings and of service checks have in common.

    ``by`` and ``answered_by`` are devices, ``there`` and ``back`` those that handled the packet, ``box/instance``
    where a box has several. ``detail`` says in a sentence where and why it ended.
    """

    __pydantic_config__: ClassVar[dict[str, object]] = JSON_NAMES

    id: str
    from_: str
    source: str | None
    address: str | None
    reason: str | None
    by: str | None
    seen_as: str | None
    answered_by: str | None
    expect: str | None
    as_expected: bool | None
    there: tuple[str, ...]
    back: tuple[str, ...]
    warnings: tuple[str, ...]
    detail: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PingRow(_Row):
    """A ping."""

    to: str
    outcome: Outcome

    @property
    def wanted(self) -> str:
        """What was asked for."""
        return self.to


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenedRow(_Row):
    """A service opened: ``tcp TARGET:N`` or ``udp TARGET:N``."""

    open: str
    outcome: Answer

    @property
    def wanted(self) -> str:
        """What was asked for."""
        return self.open


@dataclass(frozen=True, slots=True, kw_only=True)
class ResolvedRow(_Row):
    """A name looked up."""

    resolve: str
    outcome: Answer

    @property
    def wanted(self) -> str:
        """What was asked for."""
        return self.resolve


ServiceRow = OpenedRow | ResolvedRow
RunRow = PingRow | OpenedRow | ResolvedRow


def row(network: Network, ran: AnyRun) -> RunRow:
    """Return the row of a ping or check that was run on a network."""
    result, asked = ran.result, ran.asked
    refused = isinstance(ran, Checked) and ran.outcome is Answer.REFUSED
    common = {
        "id": asked.id,
        "from_": asked.sender,
        "source": asked.source,
        "address": _address(ran),
        "reason": "refused" if refused else result.reason.value if result.reason else None,
        "by": answered_by(network, result) if refused else _device(network, result.by),
        "seen_as": None if result.seen_as is None else written(result.seen_as),
        "answered_by": answered_by(network, result),
        "expect": asked.expect if ran.listed else None,
        "as_expected": ran.as_expected,
        "there": tuple(network.name(n) for n in result.there),
        "back": tuple(network.name(n) for n in result.back),
        "warnings": (Reason.DUPLICATE_ADDRESS.value,) if result.duplicates else (),
    }
    if not isinstance(ran, Checked):
        assert isinstance(asked, ExpectedPing)
        return PingRow(**common, detail=ending(network, result), to=asked.to, outcome=result.outcome)  # type: ignore[arg-type]
    assert isinstance(asked, ExpectedService)
    if asked.open is not None:
        return OpenedRow(**common, detail=ran.detail, open=asked.open, outcome=ran.outcome)  # type: ignore[arg-type]
    assert asked.resolve is not None  # the lab file has one of the two
    return ResolvedRow(**common, detail=ran.detail, resolve=asked.resolve, outcome=ran.outcome)  # type: ignore[arg-type]


def _device(network: Network, node: int | None) -> str | None:
    return None if node is None else network.wiring.names[network.wiring.device_of_node(node)]


def _address(ran: AnyRun) -> str | None:
    if isinstance(ran, Checked) and ran.asked.resolve is not None:
        return written(ran.addresses[0]) if ran.addresses else None
    return written(ran.result.destination) if ran.result.destination else None


def rows_of(network: Network, runs: Runs, listed: bool = True) -> dict[str, RunRow]:
    """Return the rows of a run by their ids; ``listed`` says whether the lab expects something."""
    return {ident: row(network, ran if listed else replace(ran, listed=False)) for ident, ran in runs.items()}


def rows(
    network: Network, model: Network, asked: Sequence[Expected], listed: bool = True, fresh: bool = False
) -> list[RunRow]:
    """Run pings or checks in their order and return their rows."""
    runs = Runs(network, model, {str(n): one for n, one in enumerate(asked)}, fresh)
    return list(rows_of(network, runs, listed).values())
