"""From the core's values to the shapes of the server."""

from collections.abc import Mapping
from ipaddress import ip_interface
from typing import Any

from ..core.addresses import next_free, subnet
from ..core.lab import Lab
from ..core.marking.checking.findings import Finding
from ..core.marking.checking.lab_check import LabCheck
from ..core.sheet import Diagnostic
from ..core.sim import Network
from ..core.weave import Weave, weave
from .shapes import CheckShape, DiagnosticShape, FindingShape, KnotShape, SubnetShape, WeaveShape


def weave_shape(lab: Lab, network: Network) -> WeaveShape:
    """Work out the weave of a lab, with the subnet helper's figures at every knot."""
    return chart_shape(weave(lab, network))


def chart_shape(chart: Weave) -> WeaveShape:
    """Return the shape of a weave that is worked out."""
    shape = WeaveShape.model_validate(
        {**_plain(chart), "knots": [{**_plain(k), "subnet": None} for k in chart.knots]}
    )
    taken = [ip_interface(k.address).network for k in chart.knots if k.address]
    for knot in shape.knots:
        knot.subnet = _subnet(knot, taken)
    return shape


def _plain(value: Any) -> dict[str, Any]:
    return {name: getattr(value, name) for name in value.__slots__}


def _subnet(knot: KnotShape, taken: list[Any]) -> SubnetShape | None:
    if knot.address is None:
        return None
    found = subnet(ip_interface(knot.address))
    free = next_free(found.network, taken)
    return SubnetShape(
        address=knot.address,
        network=str(found.network),
        first=str(found.first),
        last=str(found.last),
        usable=found.usable,
        broadcast=None if found.broadcast is None else str(found.broadcast),
        mask=found.mask,
        wildcard=found.wildcard,
        kind=found.kind,
        next_free=None if free is None else str(free),
    )


def check_shape(check: LabCheck) -> CheckShape:
    """Return the lab check's shape."""
    return CheckShape.model_validate(
        {**_plain(check), "findings": [finding_shape(f) for f in check.findings]}
    )


def finding_shape(finding: Finding) -> FindingShape:
    """Return a finding's shape."""
    return FindingShape.model_validate({**_plain(finding), "severity": finding.severity.value})


def place_of_sheet(lab: Lab, typed: Mapping[str, str], side: str, device: str) -> str:
    """Return the place of a device's sheet among the texts of a lab file: in the stage that the lab is, if it is one.

    The device's name may be written in other capitals there.
    """
    staged = lab.stage and (side == "answer" or (side == "given" and len(lab.stages) > 1))
    section = f"stages[{len(lab.stages) - 1}].{side}" if staged else side
    place = f"{section}.{device}"
    return next((p for p in typed if p.lower() == place.lower()), place)


def diagnostic_shape(said: Diagnostic, typed: list[str]) -> DiagnosticShape:
    """Return a remark; without its mend on a line that holds a variable, whose columns are not those read."""
    shape = {name: getattr(said, name) for name in said.__slots__}
    if said.line <= len(typed) and "${" in typed[said.line - 1]:
        shape["mend"] = None
    return DiagnosticShape.model_validate({**shape, "severity": said.severity.value})
