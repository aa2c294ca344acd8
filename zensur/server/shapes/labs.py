"""Labs and their texts and sheets."""

from typing import Literal

from pydantic import Field

from ...core.sim import OpenedRow, PingRow, ResolvedRow
from .base import MOST, Number, Shape
from .remarks import CheckShape
from .weave import WeaveShape


class LabCard(Shape):
    """What the shelf shows of a version of a lab."""

    title: str
    topics: list[str]
    level: str
    minutes: int | None
    devices: int
    networks: int
    out_of: float
    errors: int
    weave: WeaveShape
    failure: str | None = None
    """Why the lab could not be checked."""


class ShelfLab(Shape):
    """A lab on the shelf; its card is None as long as it is being checked."""

    slug: str
    version: int
    saved_at: str
    papers: int
    card: LabCard | None


class Shelf(Shape):
    """A part of the labs, from ``start`` on, of all or of those that were looked for."""

    labs: list[ShelfLab]
    start: int
    most: int
    """So many are shown at once."""
    of: int
    topics: list[str]
    """The topics of all labs on the shelf."""
    levels: list[str]


class DeviceSheets(Shape):
    """A device's sheets in a lab, as they were typed."""

    device: str
    kind: Literal["router", "switch", "host"]
    about: str
    given: str | None
    start: str | None
    answer: str | None
    before: str | None
    """What the device has at the end of the stage before, in canonical form; None: there is none."""
    taken: list[str]
    """What the stage takes away of that."""


class StageRef(Shape):
    """A stage of a lab."""

    id: str
    title: str


class LabView(Shape):
    """A lab, its newest version."""

    slug: str
    title: str
    brief: str
    stage: str
    stages: list[StageRef]
    version: int
    saved_at: str
    text: str
    out_of: float
    weave: WeaveShape
    devices: list[DeviceSheets]
    check: CheckShape
    pings: list[PingRow]
    services: list[OpenedRow | ResolvedRow]
    papers: int


class NewLab(Shape):
    """A new lab to be made: empty, or from the starter, which works already."""

    title: str = Field(min_length=1, max_length=120)
    starter: bool = False


class LabMade(Shape):
    """The lab that was made."""

    slug: str


class LabImport(Shape):
    """A lab file to be taken in; ``slug`` is another id where its own is taken."""

    text: str = Field(max_length=1024 * 1024)
    slug: str = Field("", max_length=64)


class IdTaken(Shape):
    """There is a lab of this id; one that is free."""

    message: str
    free: str


class Removing(Shape):
    """Whether a lab is to be off the shelf."""

    removed: bool


class VersionRef(Shape):
    """A version of a lab."""

    number: int
    saved_at: str


class ChangeShape(Shape):
    """A sentence about what changed, in which stage and where: a device, ``pings``, ``scheme``, or the whole lab."""

    stage: str
    place: str
    said: str


class VersionView(Shape):
    """A version of a lab, and what became of the lab in it since another version; ``against`` None: it is the first."""

    slug: str
    title: str
    number: int
    saved_at: str
    against: int | None
    text: str
    changes: list[ChangeShape]


class LabText(Shape):
    """A lab's text on top of a version; ``base`` is not needed for a mere check."""

    text: str = Field(max_length=1024 * 1024)
    base: int = Field(0, ge=0, le=MOST)


class LabTextCheck(Shape):
    """The lab check of a text; ``readable`` says whether it can be saved."""

    readable: bool
    check: CheckShape


class TypedAt(Shape):
    """A lab's text with the place of the cursor, counted from 1."""

    text: str = Field(max_length=1024 * 1024)
    line: Number
    column: Number


class LabSaved(Shape):
    """The number of the version that was saved."""

    version: int
