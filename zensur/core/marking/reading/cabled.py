"""How a learner joined the devices, beside how the model answer does: which ports that chooses, and what is wrong."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from ...formats import Cabling
from ...lab import Criterion, End, Lab, LabError, Link, Medium, Port, read_link
from ...lab.shapes import At
from ...sheet import Configuration, Statement, Where

Links = tuple[Link, ...]
PortChoice = tuple[tuple[str, str, str], ...]
"""By device and port of the model answer the port that is cabled in its place."""
MOST_REMARKS = 20


@dataclass(frozen=True, slots=True)
class Cabled:
    """The links of a paper, each with its line, and remarks on lines that are none."""

    links: Links = ()
    where: Mapping[Link, Where] | None = None
    remarks: tuple[str, ...] = ()

    def line_of(self, link: Link) -> Where | None:
        """Return the line that a link stands in, whichever end is written first."""
        return next((where for own, where in (self.where or {}).items() if own.is_same(link)), None)


def as_planned(links: Links, planned: Links) -> Links:
    """Return the planned links themselves where others join the same ports: what is asked of them is known by them."""
    if links is planned:
        return planned
    same = len(links) == len(planned) and all(any(p.is_same(link) for link in links) for p in planned)
    return planned if same else links


def read_cables(lab: Lab, lines: Cabling) -> Cabled:
    """Read the lines of ``links.cabling`` beside the lab; a port that is joined twice keeps its first cable.

    Which end gives the clock is the lab's matter, but for a link that the lab does not have.
    """
    links: dict[Link, Where] = {}
    remarks = []
    for line in lines:
        errors: list[LabError] = []
        link = read_link(line.text, lab.devices, At("", line.where.line, 1, errors))
        taken = [end for known in links for end in known.ends if link and end in link.ends]
        if link and taken and not errors:
            errors.append(LabError("", line.where.line, 1, f"{taken[0]} has a cable already."))
        if errors or link is None:
            said = " ".join(error.message for error in errors)
            remarks.append(f"{line.where.file}, line {line.where.line}: no cable was read. {said}")
        else:
            links[_with_the_clock(link, lab)] = line.where
    if len(remarks) > MOST_REMARKS:
        remarks[MOST_REMARKS:] = [f"{len(remarks) - MOST_REMARKS} more lines hold no cable."]
    return Cabled(tuple(links), links, tuple(remarks))


def _with_the_clock(link: Link, lab: Lab) -> Link:
    """Return a link with the clock of the model answer's between the same devices."""
    planned = [p for p in lab.links if p.devices == link.devices and p.medium is link.medium]
    if not planned:
        return link
    same = next((p for p in planned if p.is_same(link)), planned[0])
    at = [end for end in link.ends if same.clock in (end, None) or end.device == same.clock.device]
    giving = sorted(at, key=lambda end: end != same.clock)[0] if same.clock is not None else None
    return Link(link.a, link.b, link.medium, giving, same.clock_hidden)


def chosen_ports(
    lab: Lab, links: Links, exact: Iterable[Link], sheets: Mapping[str, Configuration]
) -> PortChoice:
    """Work out which ports a cabling uses in the place of the model answer's.

    Ports are free where no criterion asks for a link ``exactly``, where no given sheet configures them, and where the
    learner's own sheet does not configure the planned one and not the other. A link between the same devices, and of
    the same medium, is taken for the model answer's: which for which, where there are several, and which end for
    which, where both are the same device's, the learner's sheets tell, else the ports that are as planned.
    """
    fixed = {end for link in exact for end in link.ends} | set(_ends(lab, lab.under))
    configured = set(_ends(lab, sheets))
    instead: dict[str, dict[str, str]] = {}
    waiting, left = list(lab.links), list(links)
    while waiting:
        planned = waiting[0]
        beside = [p for p in waiting if (p.devices, p.medium) == (planned.devices, planned.medium)]
        fitting = [
            (p, link, pairs)
            for p in beside
            for link in left
            if (link.devices, link.medium) == (planned.devices, planned.medium)
            for pairs in _in_place(p, link, fixed, configured)
        ]
        if not fitting:
            waiting = [p for p in waiting if p not in beside]
            continue
        planned, link, pairs = max(fitting, key=lambda one: _likeness(one[2], lab, sheets))
        waiting.remove(planned)
        left.remove(link)
        for own, other in pairs:
            instead.setdefault(own.device, {})[own.port] = other.port
    return tuple(
        (name, own, other)
        for name, device in lab.devices.items()
        for own, other in _exchanged(device.ports, instead.get(name, {})).items()
        if own != other
    )


def _ends(lab: Lab, sheets: Mapping[str, Configuration]) -> Iterator[End]:
    """Yield the physical ports that sheets configure."""
    for name, sheet in sheets.items():
        for block in sheet.blocks("port") if name in lab.devices else ():
            port = lab.devices[name].port(block.sub_port_of[0] if block.sub_port_of else block.name)
            if port is not None:
                yield End(name, port.name)


Pairs = tuple[tuple[End, End], ...]
"""The ends of a planned link, each with the one that stands for it."""


def _in_place(planned: Link, link: Link, fixed: set[End], configured: set[End]) -> Iterator[Pairs]:
    """Yield which end of a link may stand for which of a planned one."""
    for ends in (link.ends, link.ends[::-1]):
        pairs = tuple(zip(planned.ends, ends, strict=True))
        if all(
            own.device == other.device
            and (own == other or (own not in fixed and (own not in configured or other in configured)))
            for own, other in pairs
        ):
            yield pairs


def _likeness(pairs: Pairs, lab: Lab, sheets: Mapping[str, Configuration]) -> tuple[int, int]:
    """Say how well ends stand for planned ones: the statements that are as planned there, and the ports that are."""
    same = 0
    for own, other in pairs:
        if own.device in sheets:
            model, learner = lab.model[own.device], sheets[own.device]
            same += len(_inside(model, own.port) & _inside(learner, other.port))
    return same, sum(own == other for own, other in pairs)


def _inside(configuration: Configuration, port: str) -> set[tuple[int, Statement]]:
    """Return the statements of a port and of its sub-ports, each with the VLAN of its sub-port."""
    found = set()
    for item in configuration.items:
        name, vlan = (item.block.sub_port_of or (item.block.name, 0)) if item.block else ("", 0)
        if item.block and item.block.kind == "port" and name.lower() == port.lower():
            found.add((vlan, item.statement))
    return found


def _exchanged(ports: Sequence[Port], instead: Mapping[str, str]) -> dict[str, str]:
    """Complete which port stands for which: those that are left keep their names, where nobody has taken them."""
    found = dict(instead)
    for medium in Medium:
        own = [p.name for p in ports if p.medium is medium and p.name not in found]
        left = [p.name for p in ports if p.medium is medium and p.name not in instead.values()]
        found |= {name: name for name in own if name in left}
        others = [name for name in left if name not in own]
        found |= dict(zip((name for name in own if name not in left), others, strict=True))
    return found


@dataclass(frozen=True, slots=True)
class WrongCables:
    """Cables that are one mistake: those that are there and should not be, and those that are missing."""

    there: Links
    missing: Links


def wrong_cables(planned: Links, links: Links) -> list[WrongCables]:
    """Group the differences between two cablings: what shares a port, or joins the same devices, is one mistake."""
    there = [link for link in links if not any(link.is_same(p) for p in planned)]
    missing = [p for p in planned if not any(p.is_same(link) for link in links)]
    groups: list[list[Link]] = []
    for link in (*missing, *there):
        joined = [g for g in groups if any(_is_about_the_same(link, other) for other in g)]
        groups = [g for g in groups if g not in joined] + [[*(one for g in joined for one in g), link]]
    return [
        WrongCables(tuple(k for k in there if k in group), tuple(k for k in missing if k in group))
        for group in groups
    ]


def _is_about_the_same(one: Link, other: Link) -> bool:
    return one.devices == other.devices or bool({*one.ends} & {*other.ends})


def is_about(criterion: Criterion, link: Link) -> bool:
    """Whether a criterion asks for a link, or that its devices are joined."""
    if criterion.key == "link":
        return criterion.operand == str(link)
    return criterion.key == "joins" and frozenset(criterion.operand.split()) == link.devices
