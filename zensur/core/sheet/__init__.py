"""The device language: statements, reader, writer and diagnostics, and the configuration they fill."""

from .configuration import AnyItem, Block, Configuration, Item, Where
from .diagnostics import Diagnostic, Severity
from .grammar import DEFAULT_V4, Masked, write_destination
from .reader import Sheet, read_sheet
from .statements import BLOCKS, STATEMENTS, About, Gateway, Name, OnPort, Open, Route, Statement, Switched
from .words import natural
from .writer import write_sheet

__all__ = [
    "BLOCKS",
    "DEFAULT_V4",
    "STATEMENTS",
    "About",
    "AnyItem",
    "Block",
    "Configuration",
    "Diagnostic",
    "Gateway",
    "Item",
    "Masked",
    "Name",
    "OnPort",
    "Open",
    "Route",
    "Severity",
    "Sheet",
    "Statement",
    "Switched",
    "Where",
    "natural",
    "read_sheet",
    "write_destination",
    "write_sheet",
]
