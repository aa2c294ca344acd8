"""What is shown of a lab while it is worked on, worked out from its text alone."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..addresses import BadValue
from ..lab import Expected, ExpectedPing, ExpectedService, Kind, Lab, parse_open, review_sheet
from ..sheet import Diagnostic, Gateway, Open, Route, Statement, read_sheet
from ..sheet.statements import Access, Dynamic, OneToOne, Pool, Published, Trunk
from ..sheet.words import check_domain
from ..sim import Network, RunRow, rows, rows_of
from ..sim.running.expectations import Runs
from ..sim.running.state import state
from ..sim.running.state_rows import PortRow
from .draft import CannotEdit, Draft


@dataclass(frozen=True, slots=True)
class Ran:
    """The lab's pings and checks on the model answer, and the state of every device's ports."""

    rows: tuple[RunRow, ...]
    ports: dict[str, tuple[PortRow, ...]]


def ran(draft: Draft) -> Ran:
    """Run what the lab expects."""
    network = draft.network
    runs = Runs(network, network, draft.lab.expected)
    found = rows_of(network, runs)
    return Ran(tuple(found.values()), {name: s.ports for name, s in state(network, runs).items()})


def pairs(draft: Draft) -> tuple[list[str], list[str], list[RunRow]]:
    """Ping every device from every device but switches without an address, each on its own.

    Returns the sources, the targets, and the rows, source by source; nobody pings itself.
    """
    bearing, found = grid(draft.lab, draft.network, draft.network)
    return bearing, bearing, found


def grid(lab: Lab, network: Network, model: Network) -> tuple[list[str], list[RunRow]]:
    """Ping every device from every other on a network, devices meant as in another one; each ping on its own."""
    bearing = [
        name
        for name, device in lab.devices.items()
        if device.kind is not Kind.SWITCH or _has_address(model, name)
    ]
    asked: list[Expected] = [
        ExpectedPing(id=f"{a} {b}", sender=a, to=b, expect="reply")
        for a in bearing
        for b in bearing
        if a != b
    ]
    return bearing, list(rows(network, model, asked, listed=False, fresh=True))


@dataclass(frozen=True, slots=True, kw_only=True)
class StatementRow:
    """A statement of the model answer: its block's header (empty at the top), the text, and the sheet it stands in."""

    header: str
    text: str
    group: str
    place: str


_GROUPS: dict[str, tuple[type[Statement], ...]] = {
    "routes": (Route, Gateway),
    "translation": (OneToOne, Published, Dynamic, Pool),
}
_OF_BLOCKS = {"addresses": "translation", "dhcp": "leases", "vlan": "vlans", "dns": "names", "rip": "routes"}


def statements(draft: Draft, device: str) -> Iterator[StatementRow]:
    """Yield the statements of a device, each with what it is about: ``routes``, ``translation``, ``leases``, ``vlans``,
    ``names``, ``ports`` or ``other``."""
    for item in draft.lab.model[device].items:
        of_kind = next((g for g, kinds in _GROUPS.items() if isinstance(item.statement, kinds)), "other")
        group = _OF_BLOCKS.get(item.block.kind, "ports") if item.block else of_kind
        if isinstance(item.statement, Access | Trunk):
            group = "vlans"
        opens = isinstance(item.statement, Open)
        if opens and group != "vlans":
            continue
        yield StatementRow(
            header="" if item.block is None or opens else item.block.header(),
            text=item.text(),
            group=group,
            place=item.where.file.replace("/", ".", 1) if item.where else "",
        )


def asked_ping(draft: Draft, sender: str, to: str, source: str = "") -> ExpectedPing:
    """Make a ping that the lab does not list; raises :class:`CannotEdit` where nobody of that name is there."""
    _there(draft, sender)
    if not to.strip():
        raise CannotEdit("A ping needs somebody to ask for: a device, DEVICE:PORT or an address.")
    return ExpectedPing(id="asked", sender=sender, to=to.strip(), source=source or None, expect="reply")


def asked_service(
    draft: Draft, sender: str, opens: str, resolve: str = "", source: str = ""
) -> ExpectedService:
    """Make a check that the lab does not list: of a service that is opened, else of a name that is looked up; raises
    :class:`CannotEdit`."""
    _there(draft, sender)
    try:
        if opens:
            parse_open(opens)
        else:
            check_domain(resolve)
    except BadValue as bad:
        raise CannotEdit(str(bad)) from bad
    return ExpectedService(
        id="asked", sender=sender, expect="answer", source=source or None,
        open=opens or None, resolve=None if opens else resolve,
    )  # fmt: skip


def _there(draft: Draft, sender: str) -> None:
    if draft.network.find_node(sender) is None:
        raise CannotEdit(f"There is no device {sender[:40] or 'without a name'} to ask from.")


def _has_address(network: Network, name: str) -> bool:
    number = network.wiring.device[name.lower()]
    return any(port.addresses for port in network.devices[number].ports)


def remarks_on_typed(draft: Draft, side: str, device: str) -> tuple[tuple[Diagnostic, ...], int]:
    """Return what is said of a sheet as it is typed, and how many remarks more there are.

    A line that holds a variable gets no mend: its columns are not those that were read.
    """
    lab = draft.lab
    typed = draft.typed.get(draft.sheet_place(side, device), "")
    sheet = getattr(lab, side).get(device) or read_sheet(typed)
    return review_sheet(sheet, lab, device, side != "given"), sheet.more
