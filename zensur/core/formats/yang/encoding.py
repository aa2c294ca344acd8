"""Writes instance data as JSON (RFC 7951) and as XML (RFC 7950), in two spaces of indent."""

import json
from collections.abc import Iterator
from typing import Any
from xml.sax.saxutils import escape

from ..tree import Members
from .modules import namespace_of

_NETCONF = "urn:ietf:params:xml:ns:netconf:base:1.0"


def json_text(data: Members) -> str:
    """Write data as JSON."""
    return json.dumps(data, indent=2, ensure_ascii=False) + "\n"


def xml_text(data: Members) -> str:
    """Write data as XML, in a ``config`` element (RFC 6241, 7.2)."""
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<config xmlns="{_NETCONF}">',
        *_elements(data, "", "  "),
        "</config>",
    ]
    return "\n".join(lines) + "\n"


def xml_elements(data: Members) -> Iterator[str]:
    """Yield the lines of data as XML, without an element around them."""
    return _elements(data, "", "")


def _elements(data: Members, module: str, indent: str) -> Iterator[str]:
    for key, value in data.items():
        own, _, name = key.rpartition(":")
        own = own or module
        declared = f' xmlns="{namespace_of(own)}"' if own != module else ""
        for one in value if type(value) is list else [value]:
            yield from _element(name, declared, one, own, indent)


def _element(name: str, declared: str, value: Any, module: str, indent: str) -> Iterator[str]:
    if value is None or value == {}:
        yield f"{indent}<{name}{declared}/>"
    elif type(value) is dict:
        yield f"{indent}<{name}{declared}>"
        yield from _elements(value, module, indent + "  ")
        yield f"{indent}</{name}>"
    elif type(value) is bool:
        yield f"{indent}<{name}{declared}>{'true' if value else 'false'}</{name}>"
    else:
        prefix, colon, rest = str(value).partition(":")
        if name in ("type", "forwarding") and colon and rest and prefix.startswith(("ietf-", "iana-")):
            declared += (
                f' xmlns:{prefix}="{namespace_of(prefix)}"'  # an identity: its prefix is the module's name
            )
        yield f"{indent}<{name}{declared}>{escape(str(value))}</{name}>"
