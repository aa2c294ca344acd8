"""Every edit there is, told apart by what it does, and how one is made: whole, or not at all."""

from typing import Any

from ..lab import read_lab
from .addresses import ADDRESS_EDITS
from .asked import ASKED_EDITS
from .cabling import CABLE_EDITS
from .devices import DEVICE_EDITS
from .draft import CannotEdit, Draft
from .scheming import WriteScheme
from .staging import STAGE_EDITS
from .texts import TEXT_EDITS

Edit = ADDRESS_EDITS | ASKED_EDITS | CABLE_EDITS | DEVICE_EDITS | STAGE_EDITS | TEXT_EDITS | WriteScheme
"""An edit: an object with ``apply``, which takes a draft and returns another."""


def edited(draft: Draft, edits: "list[Any]") -> Draft:
    """Make edits one after another; where the last leaves a text that cannot be read, none of them is made.

    Raises :class:`CannotEdit`.
    """
    for edit in edits:
        draft = edit.apply(draft)
    read = read_lab(draft.text)
    if read.lab is None:
        first = read.errors[0]
        raise CannotEdit(f"With that the lab could not be read: {first.place}: {first.message}")
    return draft
