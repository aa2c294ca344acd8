"""Bytes or text into lines that can be read: encodings, binary files and sheets that are too large."""

from .diagnostics import Diagnostic, Remarks, Severity

_CONTROLS = {code: "\ufffd" for code in range(32) if chr(code) not in "\t\n\r"}
"""A few control characters make no binary file, but nothing that is written holds any."""
_BOM16 = (b"\xff\xfe", b"\xfe\xff")


def decode(source: str | bytes, most_bytes: int, most_lines: int) -> tuple[str, Remarks]:
    """Return the text with CRLF as LF; the empty text with one error where it is no sheet at all."""
    remarks = Remarks()
    size = len(source) if isinstance(source, bytes) else len(source.encode("utf-8", "replace"))
    if size > most_bytes:
        return _refuse(
            remarks, "too-large", f"This file is larger than {most_bytes // 1024} KiB: it is no sheet."
        )
    text = text_of(source, remarks)
    if sum(c < " " and c not in "\t\n\r" for c in text) > len(text) // 100:
        return _refuse(
            remarks,
            "not-text",
            "This file is not text. A sheet is plain text: save it as UTF-8 and hand it in again.",
        )
    text = text.translate(_CONTROLS)
    if text.count("\n") >= most_lines:
        return _refuse(remarks, "too-large", f"This file has more than {most_lines} lines: it is no sheet.")
    return text, remarks


def text_of(source: str | bytes, remarks: Remarks | None = None) -> str:
    """Return the text of a file with CRLF as LF and without a mark in front; what is not UTF-8 is remarked on."""
    text = source if isinstance(source, str) else _decoded(source, remarks)
    return text.removeprefix("\ufeff").replace("\r\n", "\n")


def _decoded(source: bytes, remarks: Remarks | None) -> str:
    if source[:2] in _BOM16:
        return source.decode("utf-16", "replace")
    try:
        return source.decode("utf-8")
    except UnicodeDecodeError as error:
        if remarks is not None:
            said = "A character here is not in UTF-8 and is read as �; save the sheet as UTF-8."
            line = source.count(b"\n", 0, error.start) + 1
            remarks.add(Diagnostic(Severity.WARNING, "not-utf-8", line, 1, 1, said))
        return source.decode("utf-8", "replace")


def _refuse(remarks: Remarks, code: str, message: str) -> tuple[str, Remarks]:
    remarks.kept.clear()
    remarks.add(Diagnostic(Severity.ERROR, code, 1, 1, 1, message))
    return "", remarks
