"""Texts in files that a spreadsheet opens."""

import unicodedata


def harmless(text: str) -> str:
    """Keep a spreadsheet from taking a text as a formula; full-width signs count as well."""
    first = unicodedata.normalize("NFKC", text[:1])
    return f"'{text}" if first in ("=", "+", "-", "@", "\t", "\r", "\n") else text
