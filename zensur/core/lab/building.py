"""Turns what was read of a lab file into the lab, stage by stage, and reports what does not fit together."""

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache

from ..sheet import Sheet, read_sheet
from .criteria import read_scheme
from .expected import check_targets, read_pings, read_services
from .free import check_free, read_free
from .known import device_of
from .model import Device, Lab, Variable
from .shapes import Found
from .topology import read_devices, read_links, read_networks

_STAGED = ("answer", "pings", "services", "scheme")


def build_lab(root: Found, variables: Mapping[str, Variable], values: Mapping[str, int], text: str) -> Lab:
    """Build the lab from what was found in its ``text``; what is wrong is added to the errors that the found values
    share."""
    devices = read_devices(root)
    _check_variables(root, variables)
    whole = Lab(
        id=root.get("id", ""),
        title=root.get("title") or root.get("id", ""),
        devices=devices,
        brief=root.get("brief", ""),
        level=root.get("level", ""),
        minutes=root.get("minutes"),
        topics=tuple(t.value for t in root.get("topics", [])),
        variables=variables,
        values=values,
        links=read_links(root, devices),
        networks=tuple(read_networks(root)),
        given=_sheets(root, "given", devices),
        start=_sheets(root, "start", devices),
        hidden=_hidden(root, devices),
        asks_cabling=root.get("cabling") == "asked",
        tells_plan=root.get("plan") == "all",
        as_listed=root.get("order") == "as listed",
        text=text,
    )
    whole = replace(whole, free=tuple(read_free(root, whole)))
    stages: list[Found] = root.get("stages", [])
    if not stages:
        whole = _with_stage(whole, root)
        check_free(root, whole)
        return whole
    for key in _STAGED:
        if key in root.value:
            root.value[key].at.fail(f"A lab with stages has its {key} in them.")
    lab = whole
    seen: set[str] = set()
    for number, stage in enumerate(stages):
        ident = stage.get("id", "")
        if ident in seen:
            stage.at.fail(f"There is another stage with the id {ident}.")
        seen.add(ident)
        before = lab if number else None
        lab = replace(
            whole,
            before=before,
            brief="\n".join(
                filter(None, (whole.brief, stage.get("brief", "")))
            ),  # the lab's stands before it
            stage=ident,
            stage_title=stage.get("title") or ident,
            given=_sheets(stage, "given", devices) if number else _both(whole, stage, devices),
            removed=_removed(stage, devices, before),
        )
        lab = _with_stage(lab, stage)
    check_free(root, lab)
    return lab


def _check_variables(root: Found, variables: Mapping[str, Variable]) -> None:
    for name, found in root.get("variables", {}).items():
        if name not in variables and {"from", "to"} <= found.value.keys():
            found.at.fail("from has to be at most to.")
        if not name.replace("_", "").replace("-", "").isalnum() or not name.isascii():
            found.at.fail(f"{name[:40]!r} is no name of a variable: letters, digits, _ and -.")


def _with_stage(lab: Lab, found: Found) -> Lab:
    """Add a stage's model answer, pings, checks and scheme, which may name what earlier stages had."""
    devices = lab.devices
    pings, services = found.get("pings", []), found.get("services", [])
    lab = replace(
        lab,
        answer=_sheets(found, "answer", devices),
        pings=tuple(read_pings(pings, devices)),
        services=tuple(read_services(services, devices)),
    )
    check_targets(pings, services, lab)
    scheme = found.value.get("scheme")
    return replace(lab, scheme=read_scheme(scheme, lab)) if scheme else lab


def _both(whole: Lab, stage: Found, devices: Mapping[str, Device]) -> dict[str, Sheet]:
    """Join what the lab gives and what its first stage gives."""
    later = _sheets(stage, "given", devices)
    for name in later:
        if name in whole.given:
            stage.value["given"].at.fail(f"{name} is given at the top already: add to that sheet.")
    return {**whole.given, **later}


def _sheets(found: Found, key: str, devices: Mapping[str, Device]) -> dict[str, Sheet]:
    sheets: dict[str, Sheet] = {}
    section = found.value.get(key)
    for name, text in found.get(key, {}).items():
        device = device_of(devices, name, text.at)
        if device is not None and device.name in sheets:
            text.at.fail(f"{device.name} has a sheet here already.")
        elif device is not None and section is not None:
            sheets[device.name] = _read(text.value, f"{section.at.place}/{name}")
    return sheets


@lru_cache(maxsize=1024)
def _read(text: str, file: str) -> Sheet:
    """Read a sheet; while a lab is worked on its other sheets are the same, again and again.

    What a sheet works out when it is asked is worked out at once, for threads share it.
    """
    sheet = read_sheet(text, file)
    sheet.configuration.work_out()
    return sheet


def _hidden(root: Found, devices: Mapping[str, Device]) -> frozenset[str]:
    hidden = set()
    for found in root.get("hidden", []):
        device = device_of(devices, found.value, found.at)
        if device is not None and device.name not in root.get("given", {}):
            found.at.fail(f"{device.name} has no given sheet to hide.")
        elif device is not None:
            hidden.add(device.name)
    return frozenset(hidden)


def _removed(stage: Found, devices: Mapping[str, Device], before: Lab | None) -> dict[str, tuple[str, ...]]:
    removed: dict[str, tuple[str, ...]] = {}
    section = stage.value.get("remove")
    if section is None:
        return removed
    if before is None:
        section.at.fail("The first stage has nothing before it to take away.")
        return removed
    for name, found in section.value.items():
        device = device_of(devices, name, found.at)
        if device is None:
            continue
        for words in found.value:
            items = before.model[device.name].named_by(words.value)
            if len(items) != 1:
                there = "; ".join(i.text() for i in items[:6])
                words.at.fail(
                    f"{words.value[:60]} means several statements of {device.name}: {there}. Write more of its words."
                    if items
                    else f"{device.name} has nothing before this stage that begins with {words.value[:60]}."
                )
            elif (
                items[0].block
                and items[0].block.kind == "port"
                and not items[0].block.sub_port_of
                and (len(words.value.split()) <= len(items[0].block.header().split()))
            ):
                words.at.fail(f"{words.value[:60]} is a physical port, which cannot be taken away.")
        removed[device.name] = tuple(words.value for words in found.value)
    return removed
