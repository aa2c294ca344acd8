"""Which occasion a request is about: a stage of a lab, or a sitting of it."""

from typing import Annotated, Any

from pydantic import BaseModel, Field

from ..work.desk import Desk
from ..work.occasion import Occasion
from .errors import refused
from .shapes.base import MOST


class OfOccasion(BaseModel):
    """The sitting that is meant; where none is, the lab itself at a stage, the last where that is left out."""

    stage: Annotated[str, Field(max_length=64)] = ""
    sitting: Annotated[int, Field(ge=0, le=MOST)] = 0


def occasion_at(desk: Desk, slug: str, query: OfOccasion) -> Occasion | None:
    """Return the occasion of a request; None where there is no such lab, or no such sitting of it."""
    if query.sitting:
        sitting = desk.sittings.get(query.sitting)
        return desk.occasion_of(sitting) if sitting and sitting.slug == slug else None
    version = desk.labs.newest(slug)
    return desk.occasion(version, query.stage) if version else None


def no_occasion(slug: str, query: OfOccasion) -> Any:
    """Refuse because there is no such lab, or sitting of it."""
    return refused(
        404,
        f"There is no sitting {query.sitting} of {slug}." if query.sitting else f"There is no lab {slug}.",
    )
