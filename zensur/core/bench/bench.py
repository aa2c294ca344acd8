"""Sheets on a lab: the network that they make, its runs, the state of its devices, the packets that each saw."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from ..formats import form_of, read_configurations
from ..lab import Expected, Lab, review_sheet
from ..sheet import Configuration, Diagnostic, Sheet, read_sheet
from ..sim import Leg, Network, RunRow, Runs, journey, row
from ..sim.running.expectations import AnyRun, circles
from ..sim.running.state import state
from ..sim.running.state_rows import DeviceState


@dataclass(frozen=True, slots=True, kw_only=True)
class Packet:
    """A packet that a device saw: of which ping or check, on which way, at which ports, and what became of it.

    ``source`` and ``destination`` are those it came in with; ``rewritten`` says what the device made of them.
    """

    run: int
    way: str
    enters: str | None
    leaves: str | None
    source: str
    destination: str
    rewritten: tuple[str, ...]
    sentence: str


@dataclass(frozen=True)
class Bench:
    """A lab with a sheet of each device; ``asked`` are the questions of whoever works on it, behind the lab's own.

    ``after`` is how many pings and checks have run, all where it is None: what they leave in the tables of translations
    is there then. Devices are meant as in ``model``, the network itself where it is None; ``meant`` gives
    the names in a sheet (of loopbacks, pools, lists) those that pings mean, where they are free.
    """

    lab: Lab
    sheets: Mapping[str, Sheet]
    asked: Sequence[Expected] = ()
    after: int | None = None
    model: Network | None = None
    meant: Callable[[str, Configuration], Configuration] | None = None

    @cached_property
    def _own(self) -> dict[str, Configuration]:
        """The configurations of the sheets; one of which nothing can be read is as good as none."""
        return {name: s.configuration for name, s in self.sheets.items() if s.configuration.items}

    @cached_property
    def network(self) -> Network:
        """The network that the sheets make, laid over what is given."""
        return Network.of_lab(self.lab, self.lab.with_sheets(self._own))

    @cached_property
    def _asked_of(self) -> Network:
        """The network with the names that pings mean."""
        own = {name: self.meant(name, c) if self.meant else c for name, c in self._own.items()}
        return self.network if own == self._own else Network.of_lab(self.lab, self.lab.with_sheets(own))

    @cached_property
    def expected(self) -> dict[str, Expected]:
        """The lab's pings and checks, then the questions, by their names in a run."""
        return self.lab.expected | {f"asked:{n}": one for n, one in enumerate(self.asked, 1)}

    @cached_property
    def runs(self) -> dict[str, AnyRun]:
        """What came of every ping and check, in their order."""
        return dict(Runs(self._asked_of, self.model or self.network, self.expected))

    @property
    def packets_of(self) -> Network:
        """The network that the runs are of."""
        return self._asked_of

    @property
    def rows(self) -> list[RunRow]:
        """The pings and checks as rows, a circle no expected failure; of questions nothing is expected."""
        model = Runs(self.model, self.model, self.lab.expected) if self.model else self.runs
        found = []
        for ident, ran in self.runs.items():
            one = row(self._asked_of, ran)
            if ident not in self.lab.expected:
                one = replace(one, expect=None, as_expected=None)
            elif one.as_expected and circles(ident, ran, model):
                one = replace(one, as_expected=False)
            found.append(one)
        return found

    @cached_property
    def states(self) -> dict[str, DeviceState]:
        """What every device knows, after so many runs."""
        some = dict(list(self.expected.items())[: self.after])
        return state(self.network, Runs(self.network, self.model or self.network, some))

    def journey(self, number: int) -> tuple[Leg, ...]:
        """Follow a ping or check, counted from 1."""
        return tuple(journey(self._asked_of, list(self.runs.values())[number - 1].result))

    def seen(self, device: str, port: str = "") -> Iterator[Packet]:
        """Yield the packets that a device saw over all runs, in their order; at one of its ports where one is named."""
        for number in range(1, len(self.expected) + 1):
            for leg in self.journey(number):
                if leg.device.partition("/")[0] == device and port in ("", leg.enters, leg.leaves):
                    yield Packet(
                        run=number, way=leg.way, enters=leg.enters, leaves=leg.leaves, source=leg.source,
                        destination=leg.destination, sentence=leg.sentence,
                        rewritten=tuple(f"{r.end} {r.before} → {r.after}" for r in leg.rewritten),
                    )  # fmt: skip

    def remarks(self, device: str) -> tuple[Diagnostic, ...]:
        """Return what is said of a device's sheet."""
        return review_sheet(self.sheets[device], self.lab, device)


def bench_of(
    lab: Lab,
    texts: Mapping[str, str],
    asked: Sequence[Expected] = (),
    after: int | None = None,
    model: Network | None = None,
    meant: Callable[[str, Configuration], Configuration] | None = None,
) -> Bench:
    """Put sheets on a lab, by device; a device without one has what it begins with."""
    sheets = {
        name: _read(texts[name], name, lab) if name in texts else lab.start[name]
        for name in lab.devices
        if name in texts or name in lab.start
    }
    return Bench(lab, sheets, tuple(asked), after, model, meant)


def _read(text: str, name: str, lab: Lab) -> Sheet:
    """Read what lies on the bench for a device, in whatever form a paper had it."""
    if form_of(text) == "sheet":
        return read_sheet(text, name)
    return read_configurations(text, name, lab.devices[name])[0]
