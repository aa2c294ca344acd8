"""Pings many addresses at once from where it is started; prints a JSON list of outcomes.

Run inside a network namespace: ``python pinger.py SECONDS ADDRESS …``. It needs only the standard library.
"""

import errno
import json
import select
import socket
import struct
import sys
import time

IDENT = 0x5A00
SILENT = {errno.EINVAL: "timeout", errno.EACCES: "timeout"}  # a blackhole; a broadcast address
CODES = {(3, 0): "no-route", (3, 1): "no-neighbour", (11, 0): "ttl"}


def checksum(data: bytes) -> int:
    total = sum(struct.unpack(f"!{len(data) // 2}H", data))
    total = (total >> 16) + (total & 0xFFFF)
    return ~(total + (total >> 16)) & 0xFFFF


def echo(sequence: int) -> bytes:
    head = struct.pack("!BBHHH", 8, 0, 0, IDENT, sequence)
    return struct.pack("!BBHHH", 8, 0, checksum(head), IDENT, sequence)


def main() -> None:
    seconds, targets = float(sys.argv[1]), sys.argv[2:]
    found: list[dict[str, object]] = [{"outcome": "timeout"} for _ in targets]
    with socket.socket(socket.AF_INET, socket.SOCK_RAW, socket.IPPROTO_ICMP) as raw:
        for number, target in enumerate(targets):
            try:
                raw.sendto(echo(number), (target, 0))
            except OSError as error:
                found[number] = {"outcome": SILENT.get(error.errno or 0, "no-route")}
        until = time.monotonic() + seconds
        while (left := until - time.monotonic()) > 0:
            if not select.select([raw], [], [], left)[0]:
                break
            packet, (sender, _) = raw.recvfrom(2048)
            body = packet[(packet[0] & 15) * 4 :]
            kind, code = body[0], body[1]
            if kind == 0 and struct.unpack("!H", body[4:6])[0] == IDENT:
                number = struct.unpack("!H", body[6:8])[0]
                if targets[number] == sender:
                    found[number] = {"outcome": "reply"}
            elif kind in (3, 11):
                inner = body[8:]
                quoted = inner[(inner[0] & 15) * 4 :]
                if quoted[0] == 8 and struct.unpack("!H", quoted[4:6])[0] == IDENT:
                    number = struct.unpack("!H", quoted[6:8])[0]
                    if found[number]["outcome"] == "timeout":
                        reason = CODES.get((kind, code), f"{kind}/{code}")
                        found[number] = {"outcome": "unreachable", "reason": reason, "by": sender}
    json.dump(found, sys.stdout)


main()
