"""An independent judge of instance data: yangson, with the modules of the IETF that the package pyang ships, and ours."""

import copy
import json
import re
import sys
from functools import cache
from pathlib import Path
from typing import Any

from yangson import DataModel
from yangson.enumerations import ContentType

import zensur.core.formats.yang

_SHIPPED = Path(sys.prefix) / "share/yang/modules"
_HERE = Path(__file__).parents[1] / "yang"
_OURS = Path(zensur.core.formats.yang.__file__).parent
_PLACES = [_SHIPPED / "ietf", _SHIPPED / "iana", _HERE, _OURS]
_IMPLEMENTED = (
    "ietf-interfaces", "ietf-ip", "iana-if-type", "ietf-routing", "ietf-ipv4-unicast-routing",
    "ietf-ipv6-unicast-routing", "ietf-nat", "ietf-network-instance", "ietf-system", "ietf-access-control-list",
    "ietf-rip", "ietf-origin", "zensur-device",
)  # fmt: skip
_IMPORTED = (
    "ietf-inet-types", "ietf-yang-types", "ietf-yang-schema-mount", "ietf-netconf-acm", "iana-crypt-hash",
    "ietf-packet-fields", "ietf-ethertypes", "ietf-yang-metadata",
)  # fmt: skip


@cache
def data_model() -> DataModel:
    """Return the model of a device that has all modules, with all their features."""
    modules = [_library(name, "implement") for name in _IMPLEMENTED]
    modules += [_library(name, "import") for name in _IMPORTED]
    library = {"ietf-yang-library:modules-state": {"module-set-id": "tests", "module": modules}}
    return DataModel(json.dumps(library), [str(place) for place in _PLACES])


def _library(name: str, conformance: str) -> dict[str, Any]:
    """Describe a module as a YANG library does (RFC 7895), by what its text says."""
    text = next((p / f"{name}.yang").read_text() for p in _PLACES if (p / f"{name}.yang").exists())
    namespace = re.search(r'namespace\s+"([^"]+)"', text)
    revision = re.search(r"^\s*revision\s+\"?([0-9-]+)", text, re.MULTILINE)
    assert namespace, name
    assert revision, name
    said: dict[str, Any] = {
        "name": name, "revision": revision[1], "namespace": namespace[1], "conformance-type": conformance,
    }  # fmt: skip
    features = re.findall(r"^\s*feature\s+([\w-]+)\s*[;{]", text, re.MULTILINE)
    if features and conformance == "implement":
        said["feature"] = features
    includes = re.findall(r"^\s*include\s+([\w-]+)\s*[;{]", text, re.MULTILINE)
    if includes:
        said["submodule"] = [_submodule(i) for i in includes]
    return said


def _submodule(name: str) -> dict[str, str]:
    text = (_SHIPPED / "ietf" / f"{name}.yang").read_text()
    revision = re.search(r"^\s*revision\s+\"?([0-9-]+)", text, re.MULTILINE)
    assert revision, name
    return {"name": name, "revision": revision[1]}


def check_valid(data: dict[str, Any], content: ContentType = ContentType.config) -> None:
    """Raise where data is not valid. What is mounted under an instance is judged by itself (RFC 8528)."""
    data = copy.deepcopy(data)
    instances = data.get("ietf-network-instance:network-instances", {}).get("network-instance", [])
    mounted = [entry["vrf-root"] for entry in instances if "vrf-root" in entry]
    for entry in instances:
        if "vrf-root" in entry:
            entry["vrf-root"] = {}
    data_model().from_raw(data).validate(ctype=content)
    shared = {
        k: v for k, v in data.items() if k == "ietf-interfaces:interfaces" or k.startswith("ietf-network-i")
    }
    for root in mounted:
        data_model().from_raw({**shared, **root}).validate(ctype=content)
