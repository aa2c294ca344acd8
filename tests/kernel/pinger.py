"""Pings many addresses at once from where it is started, and tells who was heard pinging; prints JSON.

Run inside a network namespace: ``python pinger.py SECONDS NAME ADDRESS[%PORT] …``. It needs only the standard
library. Every request bears NAME and the number of its address, so that no translation hides whose it is.
Printed are ``outcomes``, one for each address, and ``seen``: NAME, number and source of every request that arrived.
"""

import errno
import json
import select
import socket
import struct
import sys
import time

SILENT = {errno.EINVAL: "timeout", errno.EACCES: "timeout", errno.EHOSTUNREACH: "unreachable"}
CODES = {
    (4, 3, 0): "no-route", (4, 3, 1): "no-neighbour", (4, 11, 0): "ttl",
    (6, 1, 0): "no-route", (6, 1, 2): "beyond-scope", (6, 1, 3): "no-neighbour", (6, 3, 0): "ttl",
}  # fmt: skip
REQUEST, REPLY = {4: 8, 6: 128}, {4: 0, 6: 129}
ERRORS = {4: (3, 11), 6: (1, 3)}


def checksum(data: bytes) -> int:
    data += b"\0" * (len(data) % 2)
    total: int = sum(struct.unpack(f"!{len(data) // 2}H", data))
    total = (total >> 16) + (total & 0xFFFF)
    return ~(total + (total >> 16)) & 0xFFFF


def echo(family: int, ident: int, sequence: int, tag: bytes) -> bytes:
    """An echo request; the kernel works out an ICMPv6 checksum by itself."""
    head = struct.pack("!BBHHH", REQUEST[family], 0, 0, ident, sequence)
    total = checksum(head + tag) if family == 4 else 0
    return struct.pack("!BBHHH", REQUEST[family], 0, total, ident, sequence) + tag


def body_of(family: int, packet: bytes) -> bytes:
    return packet[(packet[0] & 15) * 4 :] if family == 4 else packet


def quoted(family: int, inner: bytes) -> bytes:
    return inner[(inner[0] & 15) * 4 :] if family == 4 else inner[40:]


def asked_in(family: int, body: bytes) -> int | None:
    """The number of the request that an error quotes."""
    inner = quoted(family, body[8:])
    return int(struct.unpack("!H", inner[6:8])[0]) if inner[0] == REQUEST[family] else None


def main() -> None:
    seconds, name, targets = float(sys.argv[1]), sys.argv[2], sys.argv[3:]
    # Every sender has an identifier of its own, so that no two are alike behind one address.
    ident = 0x4000 + (int(name) % (1 << 32) << 4) + (int(name) >> 32)
    found: list[dict[str, object]] = [{"outcome": "timeout"} for _ in targets]
    seen: list[tuple[str, int, str]] = []
    raws = {
        4: socket.socket(socket.AF_INET, socket.SOCK_RAW, socket.IPPROTO_ICMP),
        6: socket.socket(socket.AF_INET6, socket.SOCK_RAW, socket.IPPROTO_ICMPV6),
    }
    for raw in raws.values():
        raw.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 1 << 20)
    time.sleep(0.2)  # until everybody listens
    for number, target in enumerate(targets):
        address, _, port = target.partition("%")
        family = 6 if ":" in address else 4
        tag = f"{name} {number}".encode()
        scope = (0, 0, socket.if_nametoindex(port) if port else 0) if family == 6 else (0,)
        try:
            raws[family].sendto(echo(family, ident, number, tag), (address, *scope))
        except OSError as error:
            found[number] = {"outcome": SILENT.get(error.errno or 0, "no-route")}
    until = time.monotonic() + seconds
    while (left := until - time.monotonic()) > 0:
        for raw in select.select(list(raws.values()), [], [], left)[0]:
            family = 4 if raw is raws[4] else 6
            packet, (sender, *_) = raw.recvfrom(2048)
            body = body_of(family, packet)
            kind, code = body[0], body[1]
            if kind == REQUEST[family]:
                who, _, number_text = body[8:].decode("ascii", "replace").partition(" ")
                if number_text.isdecimal():
                    seen.append((who, int(number_text), sender.partition("%")[0]))
            elif kind == REPLY[family]:
                who, _, number_text = body[8:].decode("ascii", "replace").partition(" ")
                if who == name and targets[int(number_text)].partition("%")[0] == sender.partition("%")[0]:
                    found[int(number_text)] = {"outcome": "reply"}
            elif kind in ERRORS[family]:
                asked = asked_in(family, body)
                if asked is not None and asked < len(found) and found[asked]["outcome"] == "timeout":
                    reason = CODES.get((family, kind, code), f"{kind}/{code}")
                    by = sender.partition("%")[0]
                    found[asked] = {"outcome": "unreachable", "reason": reason, "by": by}
    json.dump({"outcomes": found, "seen": seen}, sys.stdout)


main()
