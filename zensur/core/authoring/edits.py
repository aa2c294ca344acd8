"""Every edit there is, told apart by what it does, and how one is made: whole, or not at all."""

from typing import Any

from ..lab.splice import CannotSplice
from .accepting import AcceptAnswer
from .addresses import ADDRESS_EDITS
from .asked import ASKED_EDITS
from .cabling import CABLE_EDITS
from .devices import DEVICE_EDITS
from .draft import CannotEdit, Draft
from .scheming import WriteScheme
from .staging import STAGE_EDITS
from .texts import TEXT_EDITS, PutSheet

Edit = (
    ADDRESS_EDITS
    | ASKED_EDITS
    | CABLE_EDITS
    | DEVICE_EDITS
    | STAGE_EDITS
    | TEXT_EDITS
    | WriteScheme
    | AcceptAnswer
)
"""An edit: an object with ``apply``, which takes a draft and returns another."""


def edited(draft: Draft, edits: "list[Any]") -> Draft:
    """Make edits one after another; where they leave a lab that cannot be read, none of them is made.

    A sheet is taken as it is typed, whatever the scheme asks of it. Raises :class:`CannotEdit`.
    """
    before = draft
    try:
        for edit in edits:
            draft = edit.apply(draft)
    except CannotSplice as cannot:
        raise CannotEdit(str(cannot)) from None
    typed = all(isinstance(edit, PutSheet) for edit in edits)
    if draft.errors and not before.errors and not typed:
        first = draft.errors[0]
        raise CannotEdit(f"With that the lab could not be read: {first.place}: {first.message}")
    return draft
