"""Comments: what an instructor writes beside a paper. They stay with the paper when it is marked anew."""

from dataclasses import dataclass

from .database import Database, now
from .entries import NOBODY, By, note


@dataclass(frozen=True, slots=True, kw_only=True)
class Comment:
    """A comment: about a criterion, a line of a device's sheet, or the whole where neither is told."""

    id: int
    criterion: str
    device: str
    line: int | None
    text: str
    made_at: str


class Comments:
    """The comments of a database."""

    def __init__(self, database: Database) -> None:
        self.database = database

    def add(
        self,
        paper: int,
        text: str,
        *,
        criterion: str = "",
        device: str = "",
        line: int | None = None,
        by: By = NOBODY,
    ) -> int:
        """Keep a comment, and return its row."""
        with self.database.transaction() as connection:
            note(
                connection,
                by,
                "comment",
                paper=paper,
                criterion=criterion,
                device=device,
                line=line,
                text=text,
            )
            row = connection.execute(
                "INSERT INTO comment (paper, criterion, device, line, text, made_at) VALUES (?, ?, ?, ?, ?, ?)",
                (paper, criterion, device, line, text, now()),
            ).lastrowid
            assert row is not None
            return row

    def remove(self, paper: int, ident: int, by: By = NOBODY) -> bool:
        """Take a comment of a paper back; False where it has none such."""
        with self.database.transaction() as connection:
            changed = connection.execute(
                "UPDATE comment SET removed_at = ? WHERE id = ? AND paper = ? AND removed_at IS NULL",
                (now(), ident, paper),
            ).rowcount
            if changed:
                note(connection, by, "comment taken back", paper=paper, comment=ident)
            return bool(changed)

    def of_paper(self, paper: int) -> list[Comment]:
        """Return the comments on a paper that stand, the earliest first."""
        rows = self.database.connection().execute(
            "SELECT id, criterion, device, line, text, made_at FROM comment "
            "WHERE paper = ? AND removed_at IS NULL ORDER BY id",
            (paper,),
        )
        return [Comment(**dict(row)) for row in rows]
