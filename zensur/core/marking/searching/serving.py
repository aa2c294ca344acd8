"""Whether a statement that nobody asked for serves in the place of one that was."""

from ..judging.attempt import Attempt
from ..judging.judge import Judge


def serves(judge: Judge, attempt: Attempt, without: Attempt, device: str) -> bool:
    """Say whether a criterion or a ping would be worse off without the statement."""
    for criterion in judge.criteria:
        if criterion.is_run:
            worse = (
                judge.run(criterion.id, attempt).as_expected
                and not judge.run(criterion.id, without).as_expected
            )
        else:
            worse = criterion.device == device and (
                judge.judge(criterion, without).fraction < judge.judge(criterion, attempt).fraction
            )
        if worse:
            return True
    return False
