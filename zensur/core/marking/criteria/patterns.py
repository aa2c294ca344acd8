"""Patterns that a lab file asks descriptions to fit.

They are matched in a time that grows with the text alone (RE2), whatever the pattern: a learner writes the text, and
a pattern such as ``(a+)+`` takes other engines hours.
"""

from functools import lru_cache
from typing import Any

import re2


class BadPattern(ValueError):
    """A pattern that is none; the message says why."""


@lru_cache(maxsize=256)
def pattern_of(text: str) -> Any:
    """Return a compiled pattern; raises :class:`BadPattern`."""
    options = re2.Options()
    options.log_errors = False
    try:
        return re2.compile(text, options)
    except re2.error as error:
        why = error.args[0] if error.args else ""
        raise BadPattern(why.decode("utf-8", "replace") if isinstance(why, bytes) else str(why)) from error
