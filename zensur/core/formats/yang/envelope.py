"""What data comes wrapped in: replies of RESTCONF (RFC 8040) and NETCONF (RFC 6241), files of RFC 9195."""

from typing import Any

from ..tree import BadTree, Members

_WRAPPERS = (
    "data",
    "config",
    "rpc-reply",
    "rpc",
    "edit-config",
    "copy-config",
    "instance-data-set",
    "content-data",
)
_LISTS = {
    "ietf-interfaces:interface": "ietf-interfaces:interfaces",
    "ietf-network-instance:network-instance": "ietf-network-instance:network-instances",
    "ietf-routing:control-plane-protocol": "ietf-routing:routing",
}
"""The lists that a RESTCONF server may be asked for alone, and the container that they are in."""


def content_of(data: Members) -> Members:
    """Return the data within its wrappers; raises :class:`BadTree` where there is none of any module."""
    found = _unwrapped(data, 0)
    if found is None:
        raise BadTree(
            "not-modelled",
            "It holds no data of YANG modules: they begin with names such as ietf-interfaces:interfaces.",
        )
    for entry, container in _LISTS.items():
        if entry in found and container not in found:
            listed = {entry.partition(":")[2]: found[entry]}
            inner = {"control-plane-protocols": listed} if entry.startswith("ietf-routing") else listed
            found = {**found, container: inner}
    return found


def _unwrapped(data: Any, depth: int) -> Members | None:
    """Look for the first object whose members bear names of modules, through wrappers alone."""
    if type(data) is list and data:
        data = data[0]
    if data is None or data == {} or (type(data) is str and not data.strip()):
        return {}
    if type(data) is not dict or depth > 6:
        return None
    for key, value in data.items():
        module, _, name = key.rpartition(":")
        if name in _WRAPPERS and not _is_of_a_device(module):
            found = _unwrapped(value, depth + 1)
            if found is not None:
                return found
    return data if any(":" in key for key in data) else None


def _is_of_a_device(module: str) -> bool:
    return module not in ("", "ietf-restconf", "ietf-yang-instance-data", "ietf-netconf", "ietf-netconf-nmda")
