"""Lines that are misspelt: a letter left out of a keyword, a mask where a wildcard belongs."""

from collections.abc import Iterator

from ...sheet import AnyItem, Gateway, OnPort, Route
from ...sheet.statements import Dynamic, Entry, OneToOne, Open, Published
from ..differences.edits import said
from .made import MadeSlip

_LONG = (OnPort, Gateway, Route, OneToOne, Published, Dynamic)


def misspelt(device: str, items: list[AnyItem], text: str) -> Iterator[MadeSlip]:
    """Yield the misspellings of lines that stand once in the sheet ``text``."""
    lines = text.split("\n")
    for item in items:
        statement = item.statement
        line = (
            statement.text() if not isinstance(statement, Open) else item.block.header() if item.block else ""
        )
        if sum(found.strip() == line for found in lines) != 1:
            continue
        if isinstance(statement, _LONG):
            yield _typed(
                "keyword misspelt", device, item, line, f"{line[:2]}{line[3:]}", "line-not-understood"
            )
        elif (
            isinstance(statement, Open)
            and item.block
            and item.block.kind == "port"
            and _is_filled(item, items)
        ):
            yield _typed(
                "header misspelt", device, item, line, line.replace("port", "prot", 1), "line-not-understood"
            )
        if isinstance(statement, OnPort) and statement.interface.version == 4:
            interface = statement.interface
            turned = f"address {interface.ip} mask {interface.hostmask}"
            if 8 <= interface.network.prefixlen <= 30:
                yield _typed("wildcard for a mask", device, item, line, turned, "mask-and-wildcard-confused")
        if isinstance(statement, Entry) and 8 <= statement.prefix.prefixlen <= 30:
            word = "permit" if statement.permit else "deny"
            turned = f"{word} {statement.prefix.network_address} wildcard {statement.prefix.netmask}"
            yield _typed("mask for a wildcard", device, item, line, turned, "mask-and-wildcard-confused")


def _is_filled(item: AnyItem, items: list[AnyItem]) -> bool:
    return sum(i.block == item.block for i in items) > 1


def _typed(what: str, device: str, item: AnyItem, right: str, typed: str, slip: str) -> MadeSlip:
    kind = type(item.statement).__name__.lower()
    return MadeSlip(
        f"{kind}: {what}",
        device,
        frozenset({said(item)}),
        frozenset({slip}),
        misspelt=(f"{right}\n", f"{typed}\n"),
        at=item,
    )
