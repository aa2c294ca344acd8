"""What went wrong in a paper, as things that papers can have in common."""

from ..marking.shapes import Result


def wrong_things(result: Result) -> frozenset[str]:
    """Return the mistakes of a paper as texts: kind, device, and what was found or would mend it."""
    return frozenset(
        f"{fault.title}: {fault.device} {fault.found or fault.repair}".strip() for fault in result.faults
    )
