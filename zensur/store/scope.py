"""Where papers are handed in: what tells the papers of a sitting from those of another, and from a lab's own."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Scope:
    """A sitting by its row, or else a lab with the stages that count as one: what was handed in before the lab had
    stages is of the last."""

    slug: str
    stages: tuple[str, ...] = ("",)
    sitting: int | None = None

    def where(self, paper: str) -> tuple[str, tuple[object, ...]]:
        """Return the condition in SQL that a row of ``paper`` by that name is of it, and its parameters."""
        if self.sitting is not None:
            return f"{paper}.sitting = ?", (self.sitting,)
        marks = ", ".join("?" * len(self.stages))
        return (
            f"{paper}.sitting IS NULL AND {paper}.lab = (SELECT id FROM lab WHERE slug = ?) "
            f"AND {paper}.stage IN ({marks})",
            (self.slug, *self.stages),
        )
