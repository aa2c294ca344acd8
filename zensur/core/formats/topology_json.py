"""A lab's topology as RFC 8345 data in JSON (RFC 7951): devices, ports, links, and what RFC 8346 says of layer 3.

Nodes are devices, termination points are ports, links stand once for each direction (RFC 8345, 4.4). What the models
have no leaf for (the kind of a device, the medium of a port, the end that gives a clock) stands in our own module,
``zensur-lab``, as augmentations.
"""

import json
import re
from collections.abc import Iterator, Mapping, Sequence
from ipaddress import ip_interface
from typing import Any

from ..lab import Device, End, Kind, Lab, Link, Medium, empty_lab
from ..lab.entries import add
from ..lab.schema import ID, NAME, PORT_NAME
from ..sheet import OnPort

NETWORKS = "ietf-network:networks"
_L3 = "ietf-l3-unicast-topology"
_OWN = "zensur-lab"


class NoTopology(ValueError):
    """A text that holds no topology; ``str()`` says why, and what to do."""


def topology_json(lab: Lab) -> str:
    """Write the topology of a lab, with the addresses of its model answer, as RFC 8345 JSON."""
    links = [entry for link in lab.links for entry in _links(link.a, link.b, link)]
    network = {
        "network-id": lab.id,
        "network-types": {f"{_L3}:l3-unicast-topology": {}},
        f"{_L3}:l3-topology-attributes": {"name": lab.title},
        "node": [_node(lab, device) for device in lab.devices.values()],
        "ietf-network-topology:link": links,
    }
    return json.dumps({NETWORKS: {"network": [network]}}, indent=2, ensure_ascii=False) + "\n"


def _node(lab: Lab, device: Device) -> dict[str, Any]:
    model = lab.model[device.name]
    points = []
    for name, medium in [(p.name, p.medium) for p in device.ports]:
        block = model.bearer(name)
        held = [i.statement.interface for i in model.all(OnPort, block)] if block else []
        point: dict[str, Any] = {"tp-id": name}
        if held:
            point[f"{_L3}:l3-termination-point-attributes"] = {"ip-address": [str(h.ip) for h in held]}
        if medium is not Medium.ETHERNET:
            point[f"{_OWN}:medium"] = medium.value
        points.append(point)
    prefixes = sorted({str(i.statement.interface.network) for i in model.everywhere(OnPort)})
    node: dict[str, Any] = {"node-id": device.name, f"{_OWN}:kind": device.kind.value}
    if device.about:
        node[f"{_OWN}:about"] = device.about
    node[f"{_L3}:l3-node-attributes"] = {"name": device.name, "prefix": [{"prefix": p} for p in prefixes]}
    node["ietf-network-topology:termination-point"] = points
    return node


def _links(a: End, b: End, link: Link) -> Iterator[dict[str, Any]]:
    """Yield a link in both directions; what is our own stands with the first."""
    for source, dest in ((a, b), (b, a)):
        entry: dict[str, Any] = {
            "link-id": f"{source} -- {dest}",
            "source": {"source-node": source.device, "source-tp": source.port},
            "destination": {"dest-node": dest.device, "dest-tp": dest.port},
        }
        if source is a and link.clock is not None:
            entry[f"{_OWN}:clock"] = str(link.clock) + (" hidden" if link.clock_hidden else "")
        yield entry


def is_json(text: str) -> bool:
    """Whether a text may be a topology: a lab file is YAML, and begins with no brace."""
    return text.lstrip("\ufeff \t\r\n").startswith("{")


def lab_of_topology(text: str) -> str:
    """Make a lab file of RFC 8345 JSON: devices, ports, links, and networks by their prefixes.

    Names are made into names of a lab where they are none. Raises :class:`NoTopology`.
    """
    network = _network_in(text)
    names: dict[str, str] = {}
    devices: dict[str, Any] = {}
    ports: dict[tuple[str, str], str] = {}
    prefixes: set[str] = set()
    links = list(_pairs(network))
    for node in _list(network, "node"):
        ident = str(node.get("node-id", ""))
        name = _name(ident, NAME.pattern, {n.lower() for n in devices})
        names[ident] = name
        own: list[Any] = []
        for point in _list(node, "termination-point"):
            port_id = str(point.get("tp-id", ""))
            taken = {p if isinstance(p, str) else p["name"] for p in own}
            port = _name(port_id, PORT_NAME.pattern, {t.lower() for t in taken})
            ports[ident, port_id] = port
            serial = _of(point, "medium") == Medium.SERIAL.value
            own.append({"name": port, "medium": "serial"} if serial else port)
        attributes = _of(node, "l3-node-attributes") or {}
        prefixes |= {str(p.get("prefix")) for p in _list(attributes, "prefix")}
        entry: dict[str, Any] = {"kind": _kind(node, len(own)), "ports": own}
        about = _of(node, "about")
        devices[name] = entry | ({"about": str(about)} if about else {})
    if not devices:
        raise NoTopology("The topology has no node: there is nothing to make a lab of.")
    title = str(
        (_of(network, "l3-topology-attributes") or {}).get("name") or network.get("network-id") or "Lab"
    )
    made = empty_lab(_id(str(network.get("network-id", ""))), title[:120])
    made = made.replace("devices: {}\n", "")
    made = add(made, "devices", devices)
    cables = list(_cables(links, names, ports))
    if cables:
        made = add(made, "links", cables)
    named = {f"net {n}": {"prefix": p} for n, p in enumerate(sorted(filter(_is_network, prefixes)), 1)}
    return add(made, "networks", named) if named else made


def _network_in(text: str) -> dict[str, Any]:
    try:
        found = json.loads(text.lstrip("\ufeff"))
    except (ValueError, RecursionError) as error:
        raise NoTopology(f"This is no JSON: {error}.") from None
    networks = _of(found, "networks") if isinstance(found, dict) else None
    if not isinstance(networks, dict):
        raise NoTopology(
            "There is no ietf-network:networks in it (RFC 8345): export the topology in that form."
        )
    every = _list(networks, "network")
    own = [n for n in every if _list(n, "node")]
    if not own:
        raise NoTopology("It holds no network with nodes.")
    return own[0]


def _of(entry: Mapping[str, Any], name: str) -> Any:
    """Return a member by its name, with or without that of its module (RFC 7951, section 4)."""
    return next((value for key, value in entry.items() if key.rpartition(":")[2] == name), None)


def _list(entry: Mapping[str, Any], name: str) -> list[dict[str, Any]]:
    found = _of(entry, name)
    return [e for e in found if isinstance(e, dict)] if isinstance(found, list) else []


_End = tuple[str, str]


def _pairs(network: Mapping[str, Any]) -> Iterator[tuple[_End, _End, str]]:
    """Yield the ends of links, each pair once, with the end that gives the clock."""
    seen: set[frozenset[_End]] = set()
    for link in _list(network, "link"):
        source, dest = _of(link, "source") or {}, _of(link, "destination") or {}
        if not isinstance(source, dict) or not isinstance(dest, dict):
            continue
        a = (str(source.get("source-node", "")), str(source.get("source-tp", "")))
        b = (str(dest.get("dest-node", "")), str(dest.get("dest-tp", "")))
        if a[0] and b[0] and a != b and frozenset((a, b)) not in seen:
            seen.add(frozenset((a, b)))
            yield a, b, str(_of(link, "clock") or "")


def _cables(
    links: Sequence[tuple[_End, _End, str]], names: Mapping[str, str], ports: Mapping[tuple[str, str], str]
) -> Iterator[str]:
    """Yield links in the form of a lab file; what names no port that is there is left out."""
    for a, b, clock in links:
        if a in ports and b in ports:
            text = f"{names[a[0]]}:{ports[a]} -- {names[b[0]]}:{ports[b]}"
            end, _, hidden = clock.partition(" ")
            giving = next((e for e in (a, b) if end == f"{e[0]}:{e[1]}"), None)
            if giving is not None:
                alone = a[0] != b[0]
                text += f" clock {names[giving[0]]}{'' if alone else ':' + ports[giving]}"
                text += " hidden" if hidden == "hidden" else ""
            yield text


def _kind(node: Mapping[str, Any], ports: int) -> str:
    """Return what a node is: as our module says, else a host where it has one port, and a router where it has more."""
    said = _of(node, "kind")
    if said in list(Kind):
        return str(said)
    return Kind.HOST.value if ports == 1 else Kind.ROUTER.value


def _name(text: str, pattern: re.Pattern[str], taken: set[str]) -> str:
    """Make a name of an id: what no name holds becomes a hyphen, and a number stands behind one that is taken."""
    name = re.sub(r"[^A-Za-z0-9._/-]", "-", text).strip("-._/")[:28] or "node"
    if pattern.fullmatch(name) is None:
        name = re.sub(r"[/]", "-", name)
    if re.fullmatch(r".+\.\d+", name) and pattern is PORT_NAME.pattern:
        name = name.replace(".", "-")
    number, free = 2, name
    while free.lower() in taken:
        free, number = f"{name}-{number}", number + 1
    return free


def _id(text: str) -> str:
    found = re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:56]
    return found if ID.pattern.fullmatch(found) else "lab"


def _is_network(prefix: str) -> bool:
    try:
        interface = ip_interface(prefix)
    except ValueError:
        return False
    return (
        interface.ip == interface.network.network_address
        and interface.network.prefixlen < interface.max_prefixlen
    )
