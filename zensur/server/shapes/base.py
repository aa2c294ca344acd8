"""What all shapes share, and why something was not done."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field


class Shape(BaseModel):
    """The base of all shapes: names as they stand, nothing unknown."""

    model_config = ConfigDict(extra="forbid", from_attributes=True)


MOST = 2**53 - 1
"""The largest whole number that every reader of JSON knows exactly."""
Number = Annotated[int, Field(ge=1, le=MOST)]
"""A line, a column, a row: counted from 1."""
Slug = Annotated[str, Field(min_length=1, max_length=64)]
"""The id of a lab, in the address."""


class ErrorPlace(Shape):
    """Where a lab file is wrong; line and column count from 1."""

    place: str
    line: int
    column: int
    message: str


class Refusal(Shape):
    """Why something was not done."""

    message: str
    errors: list[ErrorPlace]


class SignedIn(Shape):
    """Who is signed in; empty where nobody has to be."""

    name: str


class SigningOut(Shape):
    """Whether somebody signs out here, or everywhere."""

    everywhere: bool = False
