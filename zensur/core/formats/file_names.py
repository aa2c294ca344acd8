"""Names of files as archives hold them: decoded by what fits, and written in one way."""

import unicodedata
import zipfile

_SAYS_UTF8 = 0x800
"""The flag of a zip's entry that says that its name is UTF-8 (APPNOTE, appendix D)."""


def name_in_zip(info: zipfile.ZipInfo) -> tuple[str, str]:
    """Return the name of an entry, and as what it was read where that is a guess."""
    if info.flag_bits & _SAYS_UTF8:
        return plain_name(info.filename), ""
    return decoded(info.filename.encode("cp437", "replace"))


def name_in_tar(name: str) -> tuple[str, str]:
    """Return a name that was read as UTF-8, what did not fit with surrogates (PEP 383); and as what it was read."""
    return decoded(name.encode("utf-8", "surrogateescape"))


def decoded(raw: bytes) -> tuple[str, str]:
    """Decode a name that may be UTF-8, Latin-1, or of the old code page 437; and say which, where it is a guess.

    UTF-8 is hardly ever met by chance. From 0x80 to 0x9F Latin-1 has no letters, where the code page has its umlauts.
    """
    try:
        return plain_name(raw.decode("utf-8")), ""
    except UnicodeDecodeError:
        encoding = "cp437" if any(0x80 <= byte <= 0x9F for byte in raw) else "latin-1"
        return plain_name(raw.decode(encoding)), encoding


def plain_name(name: str) -> str:
    """Return a name in composed form (NFC), and without lone surrogates, so that a learner is one learner."""
    return unicodedata.normalize("NFC", name.encode("utf-8", "replace").decode("utf-8"))


def folded(learner: str) -> str:
    """Return a name without what may be a slip of the keyboard: capitals and spaces."""
    return "".join(unicodedata.normalize("NFC", learner).casefold().split())
