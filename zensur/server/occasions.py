"""Which occasion a request is about: a stage of a lab, or a sitting of it."""

from typing import Annotated

from flask import abort, request
from pydantic import BaseModel, Field, ValidationError

from ..work.desk import Desk
from ..work.occasion import Occasion
from .errors import NotThere
from .shapes.base import MOST


class OfOccasion(BaseModel):
    """The sitting that is meant; where none is, the lab itself at a stage, the last where that is left out."""

    stage: Annotated[str, Field(max_length=64)] = ""
    sitting: Annotated[int, Field(ge=0, le=MOST)] = 0


def occasion_at(desk: Desk, slug: str, query: OfOccasion) -> Occasion:
    """Return the occasion of a request; raises :class:`NotThere` where there is no such lab, or no such sitting of
    it."""
    if query.sitting:
        sitting = desk.sittings.get(query.sitting)
        if sitting is None or sitting.slug != slug:
            raise NotThere(f"There is no sitting {query.sitting} of {slug}.")
        return desk.occasion_of(sitting)
    version = desk.labs.newest(slug)
    if version is None:
        raise NotThere(f"There is no lab {slug}.")
    return desk.occasion(version, query.stage)


def occasion_asked(desk: Desk, slug: str) -> Occasion:
    """Return the occasion that a request for a file names in its address; raises :class:`NotThere`."""
    try:
        query = OfOccasion.model_validate(request.args.to_dict())
    except ValidationError:
        abort(400, "The stage or the sitting cannot be read.")
    return occasion_at(desk, slug, query)
