"""What is marked by hand, question after question over all papers: ``manual`` criteria, and answers that are not the
expected ones."""

from collections.abc import Iterable
from dataclasses import dataclass

from ..core.marking.criteria.answers import BY_HAND
from ..core.marking.scheme import tasks_of
from ..core.marking.shapes import Marked, Result
from ..store import StoredPaper
from .desk import Desk
from .occasion import Occasion


@dataclass(frozen=True, slots=True, kw_only=True)
class Given:
    """What a paper has for a question: the answer, what it earns, and whether somebody decided that."""

    paper: int
    learner: str
    answer: str
    earned: float
    decided: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """A criterion with the papers that somebody has to look at; ``required`` is the expected answer where there is
    one."""

    criterion: str
    asks: str
    required: str
    marks: float
    given: tuple[Given, ...]


def questions(desk: Desk, occasion: Occasion) -> list[Question]:
    """Return what is marked by hand, in the order of the scheme; papers that are not marked yet are left out.

    Learners with numbers of their own are asked the same question where its words are the same.
    """
    asked = [c.key for task in tasks_of(occasion.lab) for c in task.criteria]
    if not {"manual", "value"} & set(asked):
        return []
    found: dict[str, list[tuple[Marked, Given]]] = {}
    for stored, result in desk.results_of(occasion)[0]:
        for criterion, given in _of_paper(stored, result):
            found.setdefault(criterion.id, []).append((criterion, given))
    return [
        Question(
            criterion=ident,
            asks=own[0][0].operand,
            required="" if own[0][0].key == "manual" else own[0][0].required,
            marks=own[0][0].marks,
            given=tuple(given for _, given in own),
        )
        for ident, own in found.items()
    ]


def _of_paper(stored: StoredPaper, result: Result) -> Iterable[tuple[Marked, Given]]:
    for c in result.criteria:
        doubtful = c.key == "value" and (c.fraction < 1 or c.overruled is not None) and c.found != "no answer"
        if c.key == "manual" or doubtful:
            answer = "" if c.found == BY_HAND else c.found
            yield c, Given(
                paper=stored.id, learner=result.learner, answer=answer, earned=c.marks * c.fraction,
                decided=c.overruled is not None,
            )  # fmt: skip
