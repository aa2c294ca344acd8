"""Groups of learners: rosters as they are typed, pasted or dropped."""

from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel

from ..core.sittings import Learner, Roster, read_roster, roster_csv
from ..store import Group
from ..work.desk import Desk
from .errors import NotThere, refused
from .shapes import (
    GroupList,
    GroupRef,
    GroupText,
    GroupView,
    LearnerShape,
    Number,
    Refusal,
    RosterRead,
    RosterText,
)

Answer = Any


class GroupPath(BaseModel):
    """A group by its number."""

    number: Number


def groups_api(desk: Desk) -> APIBlueprint:
    """Make the blueprint."""
    api = APIBlueprint("groups", __name__, url_prefix="/api/groups")

    @api.get("", responses={200: GroupList})
    def all_of_them() -> Answer:
        """All groups, the newest first."""
        refs = [GroupRef(number=g.id, title=g.title, learners=len(g.learners)) for g in desk.groups.all()]
        return GroupList(groups=refs).model_dump()

    @api.post("/read", responses={200: RosterRead})
    def read(body: RosterText) -> Answer:
        """What a roster says, before it is stored."""
        found = read_roster(body.text)
        return RosterRead(
            learners=[learner_shape(own) for own in found.learners], remarks=list(found.remarks)
        ).model_dump()

    @api.post("", responses={201: GroupView, 422: Refusal})
    def add(body: GroupText) -> Answer:
        """Add a group; lines of its roster that cannot be taken are told and left out."""
        found = read_roster(body.text)
        if not found.learners:
            return _nobody(found)
        return _view(desk, desk.groups.add(body.title, found.learners), found.remarks), 201

    @api.get("/<int:number>", responses={200: GroupView, 404: Refusal})
    def one(path: GroupPath) -> Answer:
        """One group."""
        return _view(desk, path.number)

    @api.put("/<int:number>", responses={200: GroupView, 404: Refusal, 422: Refusal})
    def change(path: GroupPath, body: GroupText) -> Answer:
        """Give a group another title and roster; sittings keep the learners that they have."""
        group_found(desk, path.number)
        found = read_roster(body.text)
        if not found.learners:
            return _nobody(found)
        desk.groups.change(path.number, body.title, found.learners)
        return _view(desk, path.number, found.remarks)

    @api.delete("/<int:number>", responses={204: None, 404: Refusal})
    def remove(path: GroupPath) -> Answer:
        """Take a group off the list; sittings keep its learners."""
        group_found(desk, path.number)
        desk.groups.remove(path.number)
        return Response(status=204)

    return api


def learner_shape(own: Learner) -> LearnerShape:
    """Return a learner's shape."""
    return LearnerShape.model_validate(own)


def _view(desk: Desk, number: int, remarks: tuple[str, ...] = ()) -> Answer:
    group = group_found(desk, number)
    return GroupView(
        number=group.id,
        title=group.title,
        learners=[learner_shape(own) for own in group.learners],
        text=roster_csv(group.learners),
        remarks=list(remarks),
    ).model_dump()


def _nobody(found: Roster) -> Answer:
    said = " ".join(found.remarks[:3])
    return refused(422, f"There is no learner in it. Write one on each line: an id, a comma, a name. {said}")


def group_found(desk: Desk, number: int) -> Group:
    """Return a group; raises :class:`NotThere`."""
    group = desk.groups.get(number)
    if group is None:
        raise NotThere("There is no such group.")
    return group
