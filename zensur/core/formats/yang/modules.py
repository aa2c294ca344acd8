"""The YANG modules that configurations are read and written with, and the namespaces that they have in XML."""

OWN = "zensur-device"
"""Our own module, for what the standard ones cannot say: docs/yang/zensur-device.yang."""
INTERFACES = "ietf-interfaces"
IP = "ietf-ip"
ROUTING = "ietf-routing"
ROUTES = {4: "ietf-ipv4-unicast-routing", 6: "ietf-ipv6-unicast-routing"}
NAT = "ietf-nat"
INSTANCES = "ietf-network-instance"
SYSTEM = "ietf-system"
LISTS = "ietf-access-control-list"
RIP = "ietf-rip"
EXTENSIONS = "ietf-if-extensions"

KNOWN = frozenset(
    (OWN, INTERFACES, IP, ROUTING, *ROUTES.values(), NAT, INSTANCES, SYSTEM, LISTS, RIP, EXTENSIONS)
)
"""The modules that something is read of; of others a note says that they are passed over."""

_IETF = "urn:ietf:params:xml:ns:yang:"
_OWN_NAMESPACE = "tag:zensur.example,2026:device"
_BASE = "urn:ietf:params:xml:ns:netconf:base:1.0"


def namespace_of(module: str) -> str:
    """Return the namespace of a module: those of IETF and IANA follow one pattern (RFC 8407, 4.9)."""
    return _OWN_NAMESPACE if module == OWN else _IETF + module


def module_of(namespace: str) -> str:
    """Return the module of a namespace; where that cannot be told, the namespace itself, and of NETCONF nothing."""
    if namespace in (_BASE, ""):
        return ""
    return OWN if namespace == _OWN_NAMESPACE else namespace.removeprefix(_IETF)


def is_identity(value: str, name: str) -> bool:
    """Whether a value of the type identityref is an identity, whatever prefix it has (RFC 7951, 6.8)."""
    return value.rpartition(":")[2].lower() == name.lower()
