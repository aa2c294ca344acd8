"""Values of the core as JSON: a dataclass becomes an object with its fields, in their order.

The same types are the shapes of the server: pydantic reads dataclasses, and finds here how their fields are called.
"""

from collections.abc import Callable
from dataclasses import fields
from functools import lru_cache
from json import JSONEncoder
from operator import attrgetter
from typing import Any


def json_name(field: str) -> str:
    """Return what a field is called in JSON: ``from_``, which is a word of Python, is ``from``."""
    return field.removesuffix("_")


JSON_NAMES: dict[str, object] = {"alias_generator": json_name, "populate_by_name": True}
"""For ``__pydantic_config__`` of types with such fields."""


LEFT_OUT = {"left_out": True}
"""The metadata of a field that is left out where it is None."""


def to_json(value: Any, indent: int | None = None) -> str:
    """Write a value of the core as JSON, in one line where no ``indent`` is given."""
    if indent is None:
        return _ENCODER.encode(value)
    return JSONEncoder(ensure_ascii=False, default=fields_of, indent=indent).encode(value)


def fields_of(value: Any) -> dict[str, Any]:
    """Return the fields of a dataclass by their names in JSON; one that is ``LEFT_OUT`` only where it has a value."""
    kind: type = type(value)
    names, values_of, optional = _fields(kind)
    found = dict(zip(names, values_of(value), strict=True))
    for name in optional:
        if found[name] is None:
            del found[name]
    return found


_ENCODER = JSONEncoder(ensure_ascii=False, default=fields_of)


@lru_cache(maxsize=256)
def _fields(kind: type) -> tuple[tuple[str, ...], Callable[[Any], tuple[Any, ...]], tuple[str, ...]]:
    own = [f.name for f in fields(kind)]
    optional = tuple(json_name(f.name) for f in fields(kind) if f.metadata.get("left_out"))
    getter = attrgetter(*own) if len(own) > 1 else attrgetter(own[0], own[0])
    return tuple(json_name(name) for name in own), getter, optional
