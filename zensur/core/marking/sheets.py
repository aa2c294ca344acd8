"""The first step of marking: a paper's sheets laid over what is given, with the model answer's names where names are
free."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from ..lab import review_sheet
from ..sheet import Configuration, Diagnostic, Sheet
from .facts import LabFacts
from .paper import Paper
from .reading.cabled import Cabled, read_cables
from .reading.pairing import with_model_names
from .reading.unread import Unread, unread_lines

MOST_READ = 2_000
"""So many sheets are known again; then they are read anew."""


@dataclass(frozen=True, slots=True)
class Sheets:
    """A paper as configurations.

    ``configurations`` are those of all devices of the lab; ``own`` what was handed in, with the learner's own names and
    without what is given; ``unread`` the lines that were not understood, by device; ``missing`` the devices of which
    nothing was handed in, or nothing that could be read.
    """

    paper: Paper
    configurations: Mapping[str, Configuration]
    own: Mapping[str, Configuration] = field(default_factory=dict)
    unread: Mapping[str, tuple[Unread, ...]] = field(default_factory=dict)
    missing: frozenset[str] = frozenset()
    cabled: Cabled = field(default_factory=Cabled)
    """How the devices are joined: by the lab, or by the learner where that is asked."""


class SheetReader:
    """Lays the sheets of papers over what is given; the same sheet only once. It belongs to one thread."""

    def __init__(self, facts: LabFacts) -> None:
        self.facts = facts
        self._laid: dict[tuple[str, int], tuple[Sheet, Configuration]] = {}
        self._unread: dict[tuple[str, int], tuple[Sheet, tuple[Unread, ...]]] = {}
        self._remarks: dict[tuple[str, int], tuple[Sheet, tuple[Diagnostic, ...]]] = {}

    def read(self, paper: Paper) -> Sheets:
        """Read a paper. A sheet of which nothing can be read is as good as none."""
        lab, paper = self.facts.lab, self._of_this_lab(paper)
        if len(self._laid) > MOST_READ:
            for known in (self._laid, self._unread, self._remarks):
                known.clear()
        read = {name: sheet for name, sheet in paper.sheets.items() if sheet.configuration.items}
        configurations = {
            name: self._over_given(name, read[name]) if name in read else blank
            for name, blank in lab.blank.items()
        }
        unread = {
            name: lines
            for name, sheet in paper.sheets.items()
            if (lines := self._unread_lines(name, sheet, paper.files.get(name, "")))
        }
        own = {name: sheet.configuration for name, sheet in paper.sheets.items()}
        missing = frozenset(name for name in lab.devices if name not in read)
        cabled = read_cables(lab, paper.cabling or ()) if lab.asks_cabling else Cabled(lab.links)
        if cabled.remarks:
            paper = replace(paper, remarks=(*paper.remarks, *cabled.remarks))
        return Sheets(paper, configurations, own, unread, missing, cabled)

    def remarks(self, name: str, sheet: Sheet) -> tuple[Diagnostic, ...]:
        """Return all remarks on a sheet in its lab."""
        known = self._remarks.get((name, id(sheet)))
        if known is None:
            known = self._remarks[name, id(sheet)] = (sheet, review_sheet(sheet, self.facts.lab, name))
        return known[1]

    def _of_this_lab(self, paper: Paper) -> Paper:
        """Leave out what the lab does not ask for: cabling, and sheets of devices that a later version has dropped."""
        if paper.cabling is not None and not self.facts.lab.asks_cabling:
            said = "The lab gives the cabling: what was handed in of it was not looked at."
            paper = replace(paper, cabling=None, remarks=(*paper.remarks, said))
        strange = [name for name in paper.sheets if name not in self.facts.lab.devices]
        if not strange:
            return paper
        sheets = {name: sheet for name, sheet in paper.sheets.items() if name not in strange}
        remarks = (f"The lab has no device {name}: its sheet was not marked." for name in strange)
        return replace(paper, sheets=sheets, remarks=(*paper.remarks, *remarks))

    def _over_given(self, name: str, sheet: Sheet) -> Configuration:
        known = self._laid.get((name, id(sheet)))
        if known is None:
            lab = self.facts.lab
            strict = self.facts.strict_names.get(name, frozenset())
            own = with_model_names(sheet.configuration, lab.model[name], strict)
            known = self._laid[name, id(sheet)] = (sheet, own.over(lab.under[name]))
        return known[1]

    def _unread_lines(self, name: str, sheet: Sheet, file: str) -> tuple[Unread, ...]:
        known = self._unread.get((file, id(sheet)))
        if known is None:
            known = self._unread[file, id(sheet)] = (sheet, unread_lines(sheet, file))
        return known[1]
