"""What papers can have in common, as texts: what went wrong in them, and what their writers wrote for themselves."""

from ..marking.shapes import Fault, Result


def wrong_things(result: Result) -> frozenset[str]:
    """Return the mistakes of a paper as texts: kind, device, and what was found or would mend it."""
    return frozenset(_told(fault) for fault in result.faults)


def wrong_values(result: Result) -> frozenset[str]:
    """Return the mistakes of a paper that are something written: that something is missing nobody copies."""
    return frozenset(_told(fault) for fault in result.faults if fault.found is not None)


def _told(fault: Fault) -> str:
    return f"{fault.title}: {fault.device} {fault.found or fault.repair}".strip()


def written_things(result: Result) -> frozenset[str]:
    """Return the comments in the sheets of a paper, and what was not understood of it and is no mistake, with their
    device."""
    mistaken = {(f.device, f.line) for f in result.faults}
    errors = (d for d in result.diagnostics if d.severity == "error" and (d.device, d.line) not in mistaken)
    misread = (f"{d.device}: {d.message}" for d in errors)
    return frozenset([*misread, *(f"{c.device}: # {c.text}" for c in result.sheet_comments)])
