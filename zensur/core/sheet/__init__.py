"""The device language: statements, reader, writer and diagnostics, and the configuration they fill."""

from .configuration import AnyItem, Block, Configuration, Item, Where
from .diagnostics import Diagnostic, Mend, Severity
from .operands import DEFAULT_V4, DEFAULT_V6, Endpoint, Masked, write_destination
from .reader import Sheet, SheetForm, devices_named, read_sheet, read_sheets, refused_sheet, sheet_of
from .statements import (
    BLOCKS,
    STATEMENTS,
    About,
    Forwarding,
    Gateway,
    Name,
    OnPort,
    Open,
    Route,
    Statement,
    Switched,
)
from .vlans import VlanSet
from .words import comment_in, natural
from .writer import write_sheet

__all__ = [
    "BLOCKS",
    "DEFAULT_V4",
    "DEFAULT_V6",
    "STATEMENTS",
    "About",
    "AnyItem",
    "Block",
    "Configuration",
    "Diagnostic",
    "Endpoint",
    "Forwarding",
    "Gateway",
    "Item",
    "Masked",
    "Mend",
    "Name",
    "OnPort",
    "Open",
    "Route",
    "Severity",
    "Sheet",
    "SheetForm",
    "Statement",
    "Switched",
    "VlanSet",
    "Where",
    "comment_in",
    "devices_named",
    "natural",
    "read_sheet",
    "read_sheets",
    "refused_sheet",
    "sheet_of",
    "write_destination",
    "write_sheet",
]
