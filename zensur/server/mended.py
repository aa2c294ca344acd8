"""What a paper would earn if one of its mistakes were mended."""

from typing import Any

from flask_openapi3 import APIBlueprint

from ..core.marking.shapes import Result
from ..work.desk import Desk
from ..work.workers import Refused
from .errors import NotThere, refused
from .papers import PaperPath, paper_found
from .shapes import IfMended, Number, Refusal

Answer = Any


class MistakePath(PaperPath):
    """A mistake of a paper, by its number."""

    number: Number


def mended_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("mended", __name__, url_prefix="/api/papers/<int:paper>")

    @api.get("/mended/<int:number>", responses={200: IfMended, 404: Refusal, 422: Refusal})
    def mended(path: MistakePath) -> Answer:
        """What the paper would earn if a mistake were mended, and the others were not; nothing of it is stored."""
        occasion, stored = paper_found(desk, path.paper)
        now = desk.standing(stored, occasion).result
        fault = next((f for f in now.faults if f.id == path.number), None) if now else None
        if now is None or fault is None:
            raise NotThere(f"The paper has no mistake {path.number}.")
        if stored.erased:
            return refused(422, "Its learner was erased: there are no sheets to mend.")
        try:
            then = desk.mended(stored, occasion, fault)
        except Refused as refused_:
            return refused(422, f"The mended paper could not be marked. {refused_}")
        was, becomes = _met(now), _met(then)
        return IfMended(
            score=then.score,
            carried=then.carried,
            out_of=then.out_of,
            percent=then.percent,
            grade=then.grade,
            holds=[c.id for c in then.criteria if c.id in becomes - was],
            lost=[c.id for c in now.criteria if c.id in was - becomes],
        ).model_dump()

    return api


def _met(result: Result) -> set[str]:
    return {c.id for c in result.criteria if c.fraction == 1}
