"""Reading addresses (RFC 4291, RFC 4632) with errors that a beginner understands.

Text goes in, values of :mod:`ipaddress` come out; IPv6 is written back in the form of RFC 5952.
"""

import re
from ipaddress import (
    IPv4Address,
    IPv4Interface,
    IPv4Network,
    IPv6Address,
    IPv6Interface,
    IPv6Network,
    ip_address,
    ip_interface,
)

Address = IPv4Address | IPv6Address
Interface = IPv4Interface | IPv6Interface
"""An address together with the length of its network's prefix: what a port bears."""
Prefix = IPv4Network | IPv6Network

_DOTTED = re.compile(r"\d+(\.\d+){3}\Z", re.ASCII)
_ALMOST = re.compile(r"[\d.]*\d\.[\d.]*\Z|[0-9A-Fa-f]*:[0-9A-Fa-f:.]*\Z", re.ASCII)


class BadValue(ValueError):
    """A word that cannot be read as the value that stands there.

    ``code`` is stable, ``str()`` a whole sentence, ``suggestion`` the text that was probably meant, in
    place of the last ``words`` words that were read.
    """

    def __init__(self, code: str, message: str, suggestion: str | None = None, words: int = 1) -> None:
        super().__init__(message)
        self.code = code
        self.suggestion = suggestion
        self.words = words


def looks_like_address(text: str) -> bool:
    """Say whether ``text`` was meant as an address or prefix, right or wrong."""
    return bool(_ALMOST.match(text.partition("/")[0]))


def parse_address(text: str) -> Address:
    """Read one address; raises :class:`BadValue`."""
    if "/" in text:
        raise BadValue(
            "length-not-wanted",
            f"Only the address is wanted here, without a length: {text.partition('/')[0]}.",
            text.partition("/")[0],
        )
    try:
        if "%" in text:
            raise ValueError
        return ip_address(text)
    except ValueError:
        meant = _meant(text)
        hint = f" Did you mean {meant}?" if meant else ""
        raise BadValue("bad-address", _why_not(text) + hint, meant) from None


def _meant(text: str) -> str | None:
    """Guess an address that was typed with commas for dots, or with something behind it."""
    for guess in (text.rstrip(",;."), text.replace(",", "."), text.partition("\\")[0]):
        if guess == text or "%" in guess:
            continue
        try:
            return str(ip_address(guess)) + text[len(guess) :].replace("\\", "/").rstrip(",;.")
        except ValueError:
            continue
    return None


def _why_not(text: str) -> str:
    if _DOTTED.match(text):
        for octet in text.split("."):
            if len(octet) > 3 or int(octet) > 255:
                return f"{text} is no address: each of the four numbers is 0 to 255, and {octet[:12]} is not."
            if len(octet) > 1 and octet[0] == "0":
                return f"{text} is no address: write {octet} without its leading zero."
    if re.match(r"[\d.]+\Z", text, re.ASCII):
        return f"{text} is no address: an IPv4 address has four numbers with dots between them."
    if ":" in text:
        return f"{text} is no IPv6 address."
    return f"{text} is no address."


def parse_length(text: str, family: int) -> int:
    """Read the prefix length behind the slash; raises :class:`BadValue`."""
    longest = 32 if family == 4 else 128
    if not re.match(r"\d{1,3}\Z", text, re.ASCII) or int(text) > longest:
        raise BadValue("bad-length", f"/{text} is no prefix length: it is a number from 0 to {longest}.")
    return int(text)


def parse_interface(text: str) -> Interface:
    """Read ``ADDRESS/LENGTH`` and keep the host part; raises :class:`BadValue`."""
    word, slash, length = text.partition("/")
    try:
        address = parse_address(word)
    except BadValue as bad:
        raise BadValue(
            bad.code, str(bad), f"{bad.suggestion}/{length}" if slash and bad.suggestion else bad.suggestion
        ) from None
    if not slash:
        raise BadValue("length-missing", f"{text} needs its length, such as {text}/24.")
    return ip_interface((address, parse_length(length, address.version)))


def parse_prefix(text: str) -> Prefix:
    """Read ``ADDRESS/LENGTH`` with no host bits set; raises :class:`BadValue`."""
    return network_of(parse_interface(text))


def network_of(interface: Interface) -> Prefix:
    """Take the interface as a prefix; raises :class:`BadValue` where host bits are set."""
    network: Prefix = interface.network
    if interface.ip != network.network_address:
        raise BadValue(
            "host-bits",
            f"{interface} has host bits set; the network it lies in is {network}.",
            str(network),
        )
    return network
