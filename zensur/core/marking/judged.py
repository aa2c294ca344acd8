"""The third step of marking: every criterion compared with the model answer."""

from collections.abc import Mapping
from dataclasses import dataclass

from .session import Session
from .shapes import Judged


@dataclass(frozen=True, slots=True)
class Judgements:
    """What was judged of every criterion of a paper, by id."""

    session: Session
    judged: Mapping[str, Judged]


def judge_all(session: Session) -> Judgements:
    """Judge every criterion on the paper as it was handed in."""
    paper = session.paper
    return Judgements(session, {i: session.judge(c, paper) for i, _, c in session.facts.criteria})
