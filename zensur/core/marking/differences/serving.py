"""Whether a statement that nobody asked for serves in the place of one that was."""

from ..session import Attempt, Session


def serves(session: Session, attempt: Attempt, without: Attempt, device: str) -> bool:
    """Say whether a criterion or a ping would be worse off without the statement."""
    for criterion in session.criteria:
        if criterion.is_run:
            worse = attempt.runs[criterion.id].as_expected and not without.runs[criterion.id].as_expected
        else:
            worse = criterion.device == device and (
                session.judge(criterion, without).fraction < session.judge(criterion, attempt).fraction
            )
        if worse:
            return True
    return False
