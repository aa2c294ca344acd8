"""What the rows of an archived sitting have to look like, before anything of it is stored."""

from collections.abc import Callable
from datetime import datetime
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from ..core.marking.shapes import Result
from ..core.sittings import Rules


class BadSitting(ValueError):
    """A file that is no archive of a sitting, with the reason in a sentence."""


def _moment(text: str) -> str:
    if datetime.fromisoformat(text).tzinfo is None:
        raise ValueError("a moment has its zone")
    return text


def _json(kind: Any) -> Callable[[str], str]:
    """Return what checks text that is JSON of a kind, and leaves it as it is."""
    reader = TypeAdapter(kind)

    def check(text: str) -> str:
        reader.validate_json(text, strict=True)
        return text

    return check


Moment = Annotated[str, AfterValidator(_moment)]
Texts = Annotated[str, AfterValidator(_json(list[str]))]
Whole = Annotated[int, Field(ge=0, lt=2**53)]


Name = Annotated[str, Field(min_length=1, max_length=400)]


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True)


def _zoned(rules: Rules) -> Rules:
    if any(moment is not None and moment.tzinfo is None for moment in (rules.opens, rules.closes)):
        raise ValueError("a moment has its zone")
    return rules


class _Rules(BaseModel):
    rules: Annotated[Rules, AfterValidator(_zoned)]
    blind: bool


class _Lab(_Row):
    slug: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,63}$")]
    text: str


class _Sitting(_Row):
    stage: str
    title: Annotated[str, Field(min_length=1, max_length=120)]
    secret: Name
    rules: Annotated[str, AfterValidator(_json(_Rules))]
    made_at: Moment
    released_at: Moment | None


class _Seat(_Row):
    code: Name
    name: Name
    export_id: str
    mail: str
    team: str
    class_group: str
    drawn: Annotated[str, AfterValidator(_json(dict[str, Whole]))]


class _Arrival(_Row):
    id: Whole
    way: str
    files: Annotated[str, AfterValidator(_json(list[tuple[str, str]]))]
    remarks: Texts
    received_at: Moment


class _Paper(_Row):
    id: Whole
    learner: Name
    remarks: Texts
    received_at: Moment
    stage: str
    drawn: Annotated[str, AfterValidator(_json(dict[str, Whole]))]
    arrival: Whole | None
    came_as: str


class _File(_Row):
    paper: Whole
    device: str
    path: str
    hash: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class _HandIn(_Row):
    paper: Whole
    made_at: Moment
    way: Literal["handed in", "chosen", "rules"]


class _Summary(_Row):
    score: float
    carried: float
    out_of: float
    grade: str | None
    mistakes: list[str]


class _Result(_Row):
    paper: Whole
    engine: str
    json_: Annotated[str, AfterValidator(_json(Result)), Field(alias="json")]
    summary: Annotated[str, AfterValidator(_json(_Summary))]
    marked_at: Moment


class _Overrule(_Row):
    paper: Whole
    criterion: str
    marks: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] | None
    reason: str
    made_at: Moment


class _Comment(_Row):
    paper: Whole
    criterion: str
    device: str
    line: Whole | None
    text: str
    made_at: Moment
    removed_at: Moment | None


class _Facts(BaseModel):
    """The further facts of an entry that are read again; others may stand beside them."""

    model_config = ConfigDict(extra="allow", strict=True)
    criterion: str = ""
    marks: float | None = None
    was: float | None = None
    device: str = ""
    line: int | None = None
    text: str = ""
    doubts: list[str] = Field(default_factory=list)


class _Entry(_Row):
    made_at: Moment
    who: str
    what: str
    paper: Whole | None
    told: Annotated[str, AfterValidator(_json(_Facts))]
    reason: str


class _Told(_Row):
    zensur_sitting: Literal[1]
    lab: _Lab
    sitting: _Sitting
    seat: list[_Seat]
    arrival: list[_Arrival]
    paper: list[_Paper]
    paper_file: list[_File]
    entry: list[_Entry]
    hand_in: list[_HandIn]
    result: list[_Result]
    overrule: list[_Overrule]
    comment: list[_Comment]


def checked(text: bytes) -> dict[str, Any]:
    """Return what an archive tells, where all of it has the shape that it has to have."""
    try:
        return _Told.model_validate_json(text).model_dump(by_alias=True)
    except ValidationError as wrong:
        first = wrong.errors(include_input=False, include_url=False)[0]
        place = ".".join(map(str, first["loc"])) or "sitting.json"
        raise BadSitting(f"{place} is not as it has to be: {first['msg']}.") from wrong
    except RecursionError as deep:
        raise BadSitting("It is nested too deeply.") from deep
