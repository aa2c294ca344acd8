"""Reads XML (RFC 7950) with the line of each element; entities, and what lies elsewhere, are refused."""

from typing import Any
from xml.etree.ElementTree import ParseError

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import DefusedXMLParser

from ..tree import MOST_DEPTH, MOST_ENTRIES, BadTree, Members, Tree
from .modules import module_of

_END = b"]]>]]>"
"""What ended a message of NETCONF once (RFC 4742, section 3)."""


def xml_tree(source: bytes) -> Tree:
    """Read a text that is one XML document; raises :class:`BadTree`."""
    builder = _Builder()
    parser = DefusedXMLParser(target=builder, forbid_dtd=True)
    builder.parser = parser.parser
    try:
        parser.feed(source.strip().removesuffix(_END))
        parser.close()
    except ParseError as error:
        line = error.position[0]
        said = str(error).partition(":")[0]
        raise BadTree("broken-xml", f"This is no complete XML: {said}, in line {line}.", line) from None
    except DefusedXmlException:
        raise BadTree(
            "xml-entities", "It declares a document type or entities, which configurations have no need of."
        ) from None
    except (LookupError, ValueError) as error:
        if isinstance(error, BadTree):
            raise
        raise BadTree("broken-xml", f"This is no XML that can be read: {str(error)[:80]}.") from None
    return Tree(builder.root, builder.lines, False)


class _Builder:
    """What the parser tells of elements, put into a tree."""

    def __init__(self) -> None:
        self.parser: Any = None
        self.root: Members = {}
        self.lines: dict[int, dict[str, int]] = {id(self.root): {"": 1}}
        self._open: list[tuple[str, Members, str, int]] = [("", self.root, "", 1)]
        self._text: list[str] = []
        self._count = 0

    def start(self, tag: str, attributes: dict[str, str]) -> None:
        """Open an element."""
        namespace, _, name = tag[1:].partition("}") if tag[0] == "{" else ("", "", tag)
        module = module_of(namespace)
        qualified = name if module == self._open[-1][0] else f"{module}:{name}"
        self._count += 1
        if self._count > MOST_ENTRIES * 4:
            raise BadTree("too-large", f"It has more than {MOST_ENTRIES * 4} elements.")
        if len(self._open) > MOST_DEPTH:
            raise BadTree("too-deep", f"It is nested more than {MOST_DEPTH} deep.")
        line = self.parser.CurrentLineNumber
        members: Members = {}
        self.lines[id(members)] = {"": line}
        self._open.append((module, members, qualified, line))
        self._text = []

    def data(self, text: str) -> None:
        """Take text in."""
        self._text.append(text)

    def end(self, tag: str) -> None:
        """Close an element: one without elements in it is its text."""
        _, members, name, line = self._open.pop()
        parent = self._open[-1][1]
        value: Any = members if members else "".join(self._text)
        if not members:
            del self.lines[id(members)]
        parent.setdefault(name, []).append(value)
        self.lines[id(parent)].setdefault(name, line)
        self._text = []

    def close(self) -> None:
        """Close the document."""
