"""Configurations as YANG-modelled data: JSON (RFC 7951) and XML (RFC 7950), read and written."""

import re
from importlib.resources import files

from ...sheet import Configuration, Diagnostic, Forwarding, Severity, Sheet, SheetForm
from ...sheet.decoding import text_of
from ..json_tree import json_tree
from ..tree import MOST_BYTES, BadTree, Members
from .device import read_device, write_device
from .encoding import json_text, xml_elements, xml_text
from .envelope import content_of
from .instances import instance_names, read_instances, write_instances
from .interfaces import read_interfaces, write_interfaces
from .lists import read_lists, write_lists
from .modules import INSTANCES, INTERFACES, LISTS, NAT, OWN, ROUTING, SYSTEM
from .nat import read_nat, write_nat
from .node import Node
from .reading import Reading
from .routing import read_routing, write_routing
from .xml_tree import xml_tree

_TOP = frozenset(
    (f"{INTERFACES}:interfaces", f"{ROUTING}:routing", f"{NAT}:nat", f"{LISTS}:acls", f"{SYSTEM}:system",
     f"{INSTANCES}:network-instances", f"{OWN}:device")
)  # fmt: skip
_STATE = frozenset(
    (f"{INTERFACES}:interfaces-state", f"{ROUTING}:routing-state", f"{SYSTEM}:system-state", "@")
)  # fmt: skip


def read_yang(source: str | bytes, form: SheetForm, file: str = "", kind: str | None = None) -> Sheet:
    """Read instance data as a configuration; ``form`` is ``yang-json`` or ``yang-xml``.

    ``kind`` is the device's (``router``, ``switch``, ``host``), where it is known: a host's default route is its
    gateway.
    It never raises: what cannot be read is left out and reported, with its instance path and its line.
    """
    size = len(source)
    text = "" if size > MOST_BYTES else text_of(source)
    try:
        if size > MOST_BYTES:
            raise BadTree("too-large", f"This file is larger than {MOST_BYTES // 1024} KiB: it is not read.")
        if form == "yang-json":
            tree = json_tree(text)
        else:
            text = re.sub("\r\n?", "\n", text)  # the ends of lines as XML has them (2.11)
            tree = xml_tree(source if isinstance(source, bytes) else source.encode("utf-8", "replace"))
        content = content_of(tree.data)
    except BadTree as bad:
        said = Diagnostic(Severity.ERROR, bad.code, bad.line, 1, 1, str(bad))
        return Sheet(Configuration(), (said,), 0, text, form=form)
    reading = Reading(file, text, tree, kind)
    for line, key in tree.repeated:
        reading.say(
            Severity.WARNING, "said-twice", line, f"{key} stands twice in one object, where it may stand once; the "
            "last one is read.",
        )  # fmt: skip
    _read(Node(content, reading), reading)
    if not reading.remarks.kept and not list(reading.items()):
        reading.say(Severity.WARNING, "empty-sheet", 1, "The file configures nothing that is read.")
    return Sheet(reading.configuration(), tuple(reading.remarks.kept), reading.remarks.more, text, form=form)


def _read(root: Node, reading: Reading) -> None:
    root.only(_TOP, _STATE | {key for key in root.data if ":" not in key})
    read_interfaces(root, reading)
    instances = read_instances(root, reading)
    for name, mounted in ((None, root), *instances):
        read_device(mounted, reading, name)
        read_lists(mounted, reading, name)
        read_nat(mounted, reading, name)
        read_routing(mounted, reading, name)
    _forwarding(reading)


def _forwarding(reading: Reading) -> None:
    """Settle whether the device forwards: a family does where any interface says so."""
    if not reading.forwards:
        return
    said = {version: any(on for v, on, _ in reading.forwards if v == version) for version in (4, 6)}
    families = {version for version, _, _ in reading.forwards}
    on = said[4] if 4 in families else said[6]
    where = next(
        (w for v, flag, w in reading.forwards if flag is on and v in families), reading.forwards[0][2]
    )
    if families == {4, 6} and said[4] != said[6]:
        reading.say(
            Severity.NOTE, "forwarding-by-family", where.line,
            "The families differ in whether the device forwards; that of IPv4 is read for both.",
        )  # fmt: skip
    reading.keep(None, Forwarding(on), where)


def yang_data(configuration: Configuration) -> Members:
    """Return a configuration as instance data, such as JSON has it (RFC 7951)."""
    interfaces = write_interfaces(configuration)
    entries = interfaces.get(f"{INTERFACES}:interfaces", {}).get("interface", [])
    forwards = any("forwarding" in e.get(f"ietf-ip:ipv{v}", {}) for e in entries for v in (4, 6))
    mounted = {
        name: _of_instance(configuration, name, True) for name in instance_names(configuration).values()
    }
    own = _of_instance(configuration, None, forwards)
    system, device = f"{SYSTEM}:system", f"{OWN}:device"
    first = {key: own.pop(key) for key in (system,) if key in own}
    last = {key: own.pop(key) for key in (device,) if key in own}
    return {**first, **interfaces, **write_instances(configuration, mounted), **own, **last}


def _of_instance(configuration: Configuration, instance: str | None, forwards_said: bool) -> Members:
    return {
        **write_device(configuration, instance, forwards_said),
        **write_routing(configuration, instance),
        **write_lists(configuration, instance),
        **write_nat(configuration, instance),
    }


def write_yang(configuration: Configuration, form: str) -> str:
    """Write a configuration as ``yang-json`` or ``yang-xml``."""
    data = yang_data(configuration)
    return json_text(data) if form == "yang-json" else xml_text(data)


def module_text() -> str:
    """Return the text of our own module (RFC 7950)."""
    return files(__name__).joinpath(f"{OWN}.yang").read_text("utf-8")


__all__ = ["json_text", "module_text", "read_yang", "write_yang", "xml_elements", "yang_data"]
