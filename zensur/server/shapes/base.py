"""What all shapes share, and why something was not done."""

from pydantic import BaseModel, ConfigDict


class Shape(BaseModel):
    """The base of all shapes: names as they stand, nothing unknown."""

    model_config = ConfigDict(extra="forbid", from_attributes=True)


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
