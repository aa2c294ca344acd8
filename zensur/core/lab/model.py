"""The lab: devices, links, networks, given sheets, model answer, expected pings and the marking scheme."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property

from ..addresses import Address, Prefix
from ..sheet import Configuration, Forwarding, Sheet, write_sheet

EMPTY = Configuration()


class Kind(StrEnum):
    """What a device is."""

    ROUTER = "router"
    SWITCH = "switch"
    HOST = "host"


class Medium(StrEnum):
    """What kind of link a port takes."""

    ETHERNET = "ethernet"
    SERIAL = "serial"


@dataclass(frozen=True, slots=True)
class Port:
    """A physical port that the topology gives a device."""

    name: str
    medium: Medium = Medium.ETHERNET


@dataclass(frozen=True, slots=True)
class Device:
    """A router, switch or host with its physical ports in the order of the lab file."""

    name: str
    kind: Kind
    ports: tuple[Port, ...]
    about: str = ""

    def port(self, name: str) -> Port | None:
        """Find a port by name, without regard to case."""
        return next((p for p in self.ports if p.name.lower() == name.lower()), None)

    @property
    def on_by_default(self) -> bool:
        """Whether its physical ports are on where the sheet does not say."""
        return self.kind is not Kind.ROUTER

    @property
    def forwards(self) -> bool:
        """Whether it forwards packets between its ports."""
        return self.kind is Kind.ROUTER


@dataclass(frozen=True, slots=True)
class End:
    """One port of one device."""

    device: str
    port: str

    def __str__(self) -> str:
        return f"{self.device}:{self.port}"


@dataclass(frozen=True, slots=True)
class Link:
    """Two ports joined. ``clock`` is the end that has to give a serial link its clock, where one has to.

    ``clock_hidden`` says that learners have to find out which end that is.
    """

    a: End
    b: End
    medium: Medium = Medium.ETHERNET
    clock: End | None = None
    clock_hidden: bool = False

    def __str__(self) -> str:
        return f"{self.a} -- {self.b}"

    @property
    def ends(self) -> tuple[End, End]:
        """Its two ends."""
        return self.a, self.b

    def is_same(self, other: "Link") -> bool:
        """Whether it joins the same two ports, whichever is written first."""
        return {self.a, self.b} == {other.a, other.b}

    @property
    def devices(self) -> frozenset[str]:
        """The devices that it joins."""
        return frozenset({self.a.device, self.b.device})


@dataclass(frozen=True, slots=True)
class NamedNetwork:
    """A name for a network on the chart; the network itself is where its ports are."""

    name: str
    prefixes: tuple[Prefix, ...]


class Outcome(StrEnum):
    """How a ping ends."""

    REPLY = "reply"
    TIMEOUT = "timeout"
    UNREACHABLE = "unreachable"
    NO_ROUTE = "no-route"


@dataclass(frozen=True, slots=True)
class Expected:
    """What pings and service checks of a lab have in common.

    ``sender`` is a device or ``box/instance``. ``family`` is 4 or 6 where the target has both; ``out`` the port
    that a link-local target is meant on. ``seen_as`` is an address, a prefix, a range, ``pool NAME``, ``own`` or
    ``not ADDRESS``; pings of one group of ``distinct`` are each seen as another address; ``answered_by`` is a device.
    """

    id: str
    sender: str
    expect: str
    source: str | None = None
    note: str = ""
    shown: bool = False
    seen_as: str | None = None
    answered_by: str | None = None
    distinct: str | None = None
    family: int | None = None
    out: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ExpectedPing(Expected):
    """A ping of the lab and what has to come of it. ``expect`` is an outcome or ``no-reply``."""

    to: str


class Answer(StrEnum):
    """How a service check ends."""

    ANSWER = "answer"
    REFUSED = "refused"
    TIMEOUT = "timeout"
    UNREACHABLE = "unreachable"
    NO_ROUTE = "no-route"
    NO_NAME = "no-name"


@dataclass(frozen=True, slots=True, kw_only=True)
class ExpectedService(Expected):
    """A service to open, or a name to look up.

    ``open`` is ``tcp TARGET:N`` or ``udp TARGET:N``, and ``expect`` then ``answer`` or ``no-answer``;
    ``resolve`` is a name, and ``expect`` may then be the address it stands for.
    """

    open: str | None = None
    resolve: str | None = None


@dataclass(frozen=True, slots=True)
class Criterion:
    """One thing that earns marks: a key, the device, and what of it is compared.

    ``operand`` of a gateway is 6 for the IPv6 one, else empty; ``instance`` is the network instance, empty for
    the main one. ``form`` is the form that a route has to have (``via``, ``out``, ``both``, ``discard``, ``any``), None
    where only its effect counts; of a translation ``form``. ``like`` is the pattern of a description. ``accept`` holds
    lines of further answers. ``dotted`` asks that a mask is written out, ``preference`` for that of a route,
    ``own_name`` that a loopback, pool, list, lease block or instance is called as in the model answer.
    """

    key: str
    device: str
    operand: str
    marks: float
    form: str | None = None
    instance: str = ""
    like: str | None = None
    accept: tuple[str, ...] = ()
    dotted: bool = False
    preference: int | None = None
    own_name: bool = False
    answer: str = ""
    """What the question of a ``value`` has for its answer."""
    behind: int = 0
    """How many routes to the same destination the model answer prefers: above 0 it is a backup route."""

    id: str = field(init=False, compare=False)
    """``KEY:DEVICE[:OPERAND][:INSTANCE]``, or ``ping:ID`` and ``check:ID``; of a backup route ``:backup`` behind it."""
    is_run: bool = field(init=False, compare=False)
    """Whether it is a ping or service check, which is run on the whole network."""
    is_outcome: bool = field(init=False, compare=False)
    """Whether it comes of the whole network: a ping, a service check, a port that is up."""

    def __post_init__(self) -> None:
        from .keys import KEYS  # which are declared of criteria

        key = KEYS[self.key]
        backup = f"backup-{self.behind}" if self.behind > 1 else "backup" if self.behind else ""
        parts = (self.key, self.device, self.operand, self.instance, backup)
        object.__setattr__(self, "id", ":".join(part for part in parts if part))
        object.__setattr__(self, "is_run", key.of_run)
        object.__setattr__(self, "is_outcome", key.of_network)

    @property
    def node(self) -> str:
        """The device, or ``box/instance``."""
        return f"{self.device}/{self.instance}" if self.instance else self.device


@dataclass(frozen=True, slots=True)
class Task:
    """A heading of the scheme with its criteria."""

    title: str
    criteria: tuple[Criterion, ...]


@dataclass(frozen=True, slots=True)
class Scheme:
    """The marking scheme. ``tasks`` is None where it is derived from the model answer.

    ``grades`` are the percentages from which on each grade is earned.
    """

    tasks: tuple[Task, ...] | None = None
    carry_forward: bool = True
    strictness: str = "effect"
    extras: str = "report"
    charge: float = 1.0
    charge_limit: float | None = None
    total: float | None = None
    """What the instructor says that all criteria add up to."""
    grades: Mapping[str, float] = field(default_factory=dict)

    def grade(self, percent: float) -> str | None:
        """Return the best grade that a percentage earns; None where there is none."""
        earned = [(bound, name) for name, bound in self.grades.items() if percent >= bound]
        return max(earned, key=lambda one: one[0])[1] if earned else None


@dataclass(frozen=True, slots=True)
class Variable:
    """A whole number from ``low`` to ``high`` that differs from learner to learner."""

    low: int
    high: int


@dataclass(frozen=True, slots=True)
class FreePort:
    """A port, loopback or VLAN interface of which the learner chooses the host part."""

    device: str
    port: str


@dataclass(frozen=True, slots=True)
class FreeNetwork:
    """A network of which the learner chooses the subnet, and the host parts in it: of a length, within a prefix.

    ``planned`` is the model answer's choice.
    """

    name: str
    planned: Prefix
    within: Prefix


@dataclass(frozen=True)
class Lab:
    """A lab as its file says it, or one stage of it. Devices are kept in the order of the file.

    A lab with stages is its last stage; each knows the one ``before`` it, and what it takes away.
    """

    id: str
    title: str
    devices: Mapping[str, Device]
    brief: str = ""
    level: str = ""
    minutes: int | None = None
    topics: tuple[str, ...] = ()
    variables: Mapping[str, Variable] = field(default_factory=dict)
    values: Mapping[str, int] = field(default_factory=dict)
    links: tuple[Link, ...] = ()
    networks: tuple[NamedNetwork, ...] = ()
    given: Mapping[str, Sheet] = field(default_factory=dict)
    start: Mapping[str, Sheet] = field(default_factory=dict)
    hidden: frozenset[str] = frozenset()
    asks_cabling: bool = False
    """Whether learners cable, too: the links are then the model answer's."""
    free: tuple[FreePort | FreeNetwork, ...] = ()
    """What learners choose themselves."""
    as_listed: bool = False
    """Whether the chart's columns stand in the order of the devices."""
    tells_plan: bool = False
    """Whether learners read all addresses of the plan: the exercise is then to configure them."""
    answer: Mapping[str, Sheet] = field(default_factory=dict)
    pings: tuple[ExpectedPing, ...] = ()
    services: tuple[ExpectedService, ...] = ()
    scheme: Scheme = field(default_factory=Scheme)
    stage: str = ""
    stage_title: str = ""
    before: "Lab | None" = None
    removed: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    text: str = field(default="", repr=False, compare=False)
    """The file, as it was read."""

    def device(self, name: str) -> Device | None:
        """Find a device by name, without regard to case."""
        return self._lower.get(name.lower())

    @cached_property
    def _lower(self) -> dict[str, Device]:
        return {name.lower(): device for name, device in self.devices.items()}

    @cached_property
    def stages(self) -> tuple["Lab", ...]:
        """The stages in the order in which they are sat; the lab alone where it has none."""
        return (*self.before.stages, self) if self.before else (self,)

    @cached_property
    def under(self) -> dict[str, Configuration]:
        """What lies under every hand-in: all that is given so far, without what was taken away."""
        return {
            name: self._with_given(name, self.before.under if self.before else None) for name in self.devices
        }

    @cached_property
    def blank(self) -> dict[str, Configuration]:
        """Every device's configuration on a blank paper."""
        return {
            name: self.start[name].configuration.over(under) if name in self.start else under
            for name, under in self.under.items()
        }

    @cached_property
    def base(self) -> dict[str, Configuration]:
        """What the model answer changes: a blank paper, or the model answer of the stage before."""
        if self.before is None:
            return self.blank
        return {name: self._with_given(name, self.before.model) for name in self.devices}

    @cached_property
    def model(self) -> dict[str, Configuration]:
        """Every device's configuration in the model answer, laid over what is there before it.

        For a device with a sheet to start from, the answer is the whole sheet, as a hand-in is.
        """
        lies_under = self.under if self.before is None else self.base
        return {
            name: self.answer[name].configuration.over(lies_under[name]) if name in self.answer else base
            for name, base in self.base.items()
        }

    def _with_given(self, name: str, earlier: Mapping[str, Configuration] | None) -> Configuration:
        before = earlier[name].without(self.removed.get(name, ())) if earlier else EMPTY
        return self.given[name].configuration.over(before) if name in self.given else before

    def with_sheets(self, own: Mapping[str, Configuration]) -> dict[str, Configuration]:
        """Lay sheets over what is given; devices without one are as on a blank paper."""
        return {
            name: own[name].over(self.under[name]) if name in own else blank
            for name, blank in self.blank.items()
        }

    @cached_property
    def full_paper(self) -> dict[str, Sheet]:
        """The sheets of a paper that is the model answer."""
        if self.before is None:
            return dict(self.answer)
        return {
            name: Sheet(model, (), 0, write_sheet(model))
            for name, model in self.model.items()
            if model != self.blank[name]
        }

    @cached_property
    def expected(self) -> dict[str, Expected]:
        """The pings and service checks by the ids of their criteria: ``ping:ID`` and ``check:ID``."""
        return {f"ping:{p.id}": p for p in self.pings} | {f"check:{s.id}": s for s in self.services}

    def leaves_free(self, device: str, port: str, address: Address) -> bool:
        """Whether learners choose an address of the model answer: that of a port, or one of a network."""
        ports = {(f.device, f.port.lower()) for f in self.free if isinstance(f, FreePort)}
        networks = [f.planned for f in self.free if isinstance(f, FreeNetwork)]
        inside = any(n.version == address.version and address in n for n in networks)
        return not address.is_link_local and (inside or (device, port.lower()) in ports)

    @property
    def answered(self) -> bool:
        """Whether the file holds a model answer: a learner's edition does not."""
        return any(stage.answer for stage in self.stages)


def forwards(device: Device, configuration: Configuration) -> bool:
    """Say whether a device forwards packets: as its sheet says, else as its kind does."""
    said = configuration.one(Forwarding)
    return said.statement.on if said else device.forwards
