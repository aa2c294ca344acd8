"""One object of instance data: its members, asked for by name and type. What has another type is reported and left out.

Values are exact about their types (RFC 7951, section 6): a number in quotes is no number. In XML all is text.
"""

import re
from collections.abc import Callable, Collection, Iterator, Set
from functools import lru_cache
from ipaddress import IPv4Address, IPv4Network, ip_interface
from typing import Any, TypeVar

from ...addresses import Address, AddressRange, BadValue, Prefix, parse_address, range_of
from ...addresses import parse_interface as _parse_interface
from ...sheet import Severity, Where
from ...sheet.words import check_domain, check_name
from ..tree import Members
from .modules import KNOWN
from .reading import Reading

T = TypeVar("T")
_KEYS = ("name", "ip", "destination-prefix", "id", "index", "interface", "match-id", "pool-id")
parse_interface = lru_cache(maxsize=4096)(_parse_interface)
"""A class's papers bear the same addresses again and again."""
interface_of = lru_cache(maxsize=4096)(ip_interface)
"""An address with its length."""


@lru_cache(maxsize=4096)
def _address(text: str) -> Address:
    """Read an address; a zone behind it is left out."""
    return parse_address(text.partition("%")[0])


def _word(text: str) -> str:
    if not text.strip():
        raise BadValue("bad-value", "There has to be a word here, and there is none: it was left out.")
    return text.strip()


class Node:
    """An object of instance data, in its place. ``module`` is the one that its members belong to."""

    __slots__ = ("_step", "data", "lines", "module", "parent", "reading")

    def __init__(
        self, data: Members, reading: Reading, parent: "Node | None" = None, step: str = "", module: str = ""
    ) -> None:
        self.data, self.reading, self.parent, self._step, self.module = data, reading, parent, step, module
        self.lines = reading.tree.lines.get(id(data)) or {}

    @property
    def path(self) -> str:
        """The instance identifier (RFC 7951, 6.11), with the key of each entry as far as it has one."""
        above = self.parent.path if self.parent else ""
        key = next((k for k in _KEYS if isinstance(self._raw(k), str | int)), None) if self._step else None
        entry = f"[{key}='{self._raw(key)}']" if key else ""
        return f"{above}/{self._step}{entry}" if self._step else above

    def line(self, name: str = "") -> int:
        """Return the line of a member, or of the object itself."""
        found = self.lines.get(name) or self.lines.get(f"{self.module}:{name}")
        return found or self.lines.get("") or (self.parent.line(self._step) if self.parent else 1)

    def where(self, name: str = "") -> Where:
        """Return the place of a member, or of the object itself."""
        return self.reading.where(self.line(name))

    def _get(self, name: str) -> Any:
        """Return a member, whether or not it bears the name of its module."""
        found = self.data.get(name)
        if found is None and self.reading.tree.qualified and name not in self.data:
            module, colon, bare = name.rpartition(":")
            found = self.data.get(bare) if colon and module == self.module else None
            if found is None and not colon:
                found = self.data.get(f"{self.module}:{name}")
        return found

    def _raw(self, name: str) -> Any:
        """Return a leaf as it stands: in XML the first of its name."""
        found = self._get(name)
        if type(found) is list and not self.reading.tree.typed:
            return found[0]
        return found

    def has(self, name: str) -> bool:
        """Whether there is such a member."""
        return self._get(name) is not None

    # --- objects -------------------------------------------------------------------------------------

    def child(self, name: str) -> "Node":
        """Return a container; an empty one where there is none."""
        found = self._raw(name) if self.present(name) else None
        return Node(found if type(found) is dict else {}, self.reading, self, name, self._module(name))

    def present(self, name: str) -> bool:
        """Whether there is such a container, empty or not (RFC 7950, 7.5.1); an empty one of XML is text."""
        found = self._raw(name)
        if found is None or type(found) is dict or found in ("", [None]):
            return found is not None
        self._wrong(name, "an object")
        return False

    def children(self, name: str) -> "Iterator[Node]":
        """Yield the entries of a list."""
        found = self._get(name)
        if found is None:
            return
        if type(found) is not list:
            self._wrong(name, "a list")
            return
        module = self._module(name)
        for entry in found:
            if type(entry) is dict:
                yield Node(entry, self.reading, self, name, module)
            elif entry != "":
                self._wrong(name, "a list of objects")
                return

    def _module(self, name: str) -> str:
        return name.partition(":")[0] if ":" in name else self.module

    # --- leafs ---------------------------------------------------------------------------------------

    def text(self, name: str) -> str | None:
        """Return a string, line ends as spaces; None where there is none, or an empty one."""
        found = self._raw(name)
        if found is None:
            return None
        if type(found) is not str:
            return self._wrong(name, "text")
        if "\n" in found or "\r" in found:
            found = " ".join(line.strip() for line in found.splitlines()).strip()
        return found if found.strip() else None

    def word(self, name: str) -> str | None:
        """Return an enumeration's or an identity's name."""
        return self.parsed(name, _word)

    def one_of(self, name: str, choices: Collection[str]) -> str | None:
        """Return an enumeration's name, one of ``choices``."""
        found = self.word(name)
        if found is None or found in choices:
            return found
        self.refuse(
            name, BadValue("bad-value", f"{name} has to be {' or '.join(choices)}, and is {found[:40]}.")
        )
        return None

    def flag(self, name: str) -> bool | None:
        """Return a boolean."""
        found = self._raw(name)
        if found is None or type(found) is bool:
            return found
        if not self.reading.tree.typed and type(found) is str and found.strip() in ("true", "false"):
            return found.strip() == "true"
        return self._wrong(name, "true or false")

    def number(self, name: str, low: int, high: int) -> int | None:
        """Return an integer from ``low`` to ``high``."""
        found = self._raw(name)
        if found is None:
            return None
        if not self.reading.tree.typed and type(found) is str and re.match(r"\s*[0-9]{1,20}\s*\Z", found):
            found = int(found)
        if type(found) is not int:
            return self._wrong(name, "a number")
        if not low <= found <= high:
            self.refuse(
                name, BadValue("bad-number", f"{str(found)[:20]} is not a number from {low} to {high}.")
            )
            return None
        return found

    def wide(self, name: str, low: int, high: int) -> int | None:
        """Return an integer of 64 bits, which JSON has as text (RFC 7951, 6.1)."""
        found = self.word(name)
        if found is None:
            return None
        if not re.match(r"[0-9]{1,20}\Z", found) or not low <= int(found) <= high:
            self.refuse(name, BadValue("bad-number", f"{found[:20]} is not a number from {low} to {high}."))
            return None
        return int(found)

    def empty(self, name: str) -> bool:
        """Whether a leaf of the type empty is there (RFC 7951, 6.9)."""
        found = self._get(name)
        if found in (None, [None], [""]):
            return found is not None
        self._wrong(name, "[null]")
        return False

    def address(self, name: str) -> Address | None:
        """Return an address; a zone behind it is left out."""
        return self.parsed(name, _address)

    def v4(self, name: str) -> IPv4Address | None:
        """Return an IPv4 address."""
        found = self.address(name)
        return found if isinstance(found, IPv4Address) else self._of_ipv6(name, found)

    def v4_prefix(self, name: str) -> IPv4Network | None:
        """Return an IPv4 prefix; host bits are cut, with a note."""
        found = self.prefix(name)
        return found if isinstance(found, IPv4Network) else self._of_ipv6(name, found)

    def _of_ipv6(self, name: str, found: object) -> None:
        if found is not None:
            self.refuse(name, BadValue("wrong-family", f"{found} is of IPv6; here only IPv4 is read."))

    def prefix(self, name: str) -> Prefix | None:
        """Return a prefix; host bits are cut, with a note."""
        held = self.parsed(name, parse_interface)
        if held is None:
            return None
        if held.ip != held.network.network_address:
            self.note("host-bits", f"{held} has host bits set; the network {held.network} is read.", name)
        return held.network

    def span(self, first: str, last: str) -> AddressRange | None:
        """Return the range between two addresses."""
        low, high = self.v4(first), self.v4(last)
        if low is None or high is None:
            return None
        try:
            return range_of(low, high)
        except BadValue as bad:
            self.refuse(first, bad)
            return None

    def name(self, name: str) -> str | None:
        """Return a name as the language has them."""
        return self.parsed(name, check_name)

    def domain(self, name: str) -> str | None:
        """Return a name of the domain name system."""
        return self.parsed(name, check_domain)

    def checked(self, name: str, made: str) -> str | None:
        """Return a name that was made of others, where it is one."""
        try:
            return check_name(made)
        except BadValue as bad:
            self.refuse(name, bad)
            return None

    def texts(self, name: str) -> list[str]:
        """Return a leaf-list of strings."""
        found = self._get(name)
        if found is None:
            return []
        if type(found) is not list or not all(type(one) is str for one in found):
            self._wrong(name, "a list of texts")
            return []
        return found

    def parsed_texts(self, name: str, read: Callable[[str], T]) -> list[T]:
        """Return a leaf-list of what is read from strings."""
        found: list[T] = []
        for text in self.texts(name):
            try:
                found.append(read(text))
            except BadValue as bad:
                self.refuse(name, bad)
        return found

    def parsed(self, name: str, read: Callable[[str], T]) -> T | None:
        """Return what is read from a string."""
        found = self._raw(name)
        if found is None:
            return None
        if type(found) is not str:
            return self._wrong(name, "text")
        try:
            return read(found if self.reading.tree.typed else found.strip())
        except BadValue as bad:
            self.refuse(name, bad)
            return None

    # --- remarks -------------------------------------------------------------------------------------

    def _wrong(self, name: str, wanted: str) -> None:
        said = str(self._raw(name))[:40]
        self.refuse(
            name, BadValue("wrong-type", f"{name} has to be {wanted}, and is {said}: it was left out.")
        )

    def refuse(self, name: str, bad: BadValue) -> None:
        """Report the value of a member that was left out."""
        self.reading.refuse(bad, self.line(name), f"{self.path}/{name}")

    def note(self, code: str, message: str, name: str = "") -> None:
        """Say something that changes nothing, or that something was passed over."""
        self._say(Severity.NOTE, code, message, name)

    def warn(self, code: str, message: str, name: str = "") -> None:
        """Say that something is doubtful."""
        self._say(Severity.WARNING, code, message, name)

    def fail(self, code: str, message: str, name: str = "") -> None:
        """Say that something was left out."""
        self._say(Severity.ERROR, code, message, name)

    def _say(self, severity: Severity, code: str, message: str, name: str) -> None:
        path = f"{self.path}/{name}" if name else self.path
        self.reading.say(severity, code, self.line(name), message, path=path)

    def only(self, known: Set[str], passed: Set[str] = frozenset()) -> None:
        """Note the members that nothing is read of; ``passed`` are those that say nothing of a configuration."""
        for key in self.data.keys() - known - passed:
            module, colon, bare = key.rpartition(":")
            if key.startswith("@"):  # metadata, such as where a value comes from (RFC 7952)
                continue
            if not colon or module == self.module:
                if bare not in known and bare not in passed:
                    self.note("not-read", f"{bare} is not read: nothing in the language says it.", key)
            elif module in KNOWN:
                self.note("not-read", f"{key} is not read: nothing in the language says it.", key)
            else:
                self.note("unknown-module", f"The module {module[:60]} is not read.", key)
