"""Another right answer accepted for everybody: a further ``accept`` of its criterion."""

from dataclasses import dataclass
from typing import Literal

from ..marking.facts import LabFacts
from .draft import CannotEdit, Draft
from .scheming import WriteScheme, scheme_rows


@dataclass(frozen=True, slots=True, kw_only=True)
class AcceptAnswer:
    """Let lines of a sheet, or an answer to a question, count as the model's for a criterion, by its id.

    A derived scheme is written out first.
    """

    do: Literal["accept"] = "accept"
    criterion: str
    text: str

    def apply(self, draft: Draft) -> Draft:
        """Return the draft with the further answer."""
        text = "\n".join(line.strip() for line in self.text.splitlines() if line.strip())
        if not text:
            raise CannotEdit("Write the lines of a sheet, or the answer, that is to count.")
        if draft.lab.scheme.tasks is None:
            draft = WriteScheme().apply(draft)
        rows = [c for task in scheme_rows(draft, LabFacts(draft.lab)).tasks for c in task.criteria]
        row = next((c for c in rows if c.id == self.criterion), None)
        if row is None:
            raise CannotEdit(f"The scheme of the newest version has no criterion {self.criterion[:80]}.")
        if not row.place or sum(c.place == row.place for c in rows) > 1:
            raise CannotEdit(
                f"{self.criterion[:80]} stands in the file in one entry with others: give it an entry of its own."
            )
        return draft.insert(f"{row.place}.accept", text)
