"""The keys of a lab file with their shapes: the one declaration of what a lab file may hold.

The reader, the published JSON Schema, the editor's completion and the reference's tables are made
from it.
"""

from .model import Kind, Medium, Outcome
from .shapes import Choice, Either, Key, Many, Named, Number, Record, Schema, Text, Truth

ID = Text(r"[a-z0-9]([a-z0-9-]{0,62}[a-z0-9])?", "an id: a-z, 0-9 and - inside")
NAME = Text(r"[A-Za-z0-9][A-Za-z0-9._-]{0,31}", "a name: letters, digits and . _ -, at most 32 characters")
PORT_NAME = Text(
    r"[A-Za-z0-9][A-Za-z0-9._/-]{0,31}",
    "a name of a port: letters, digits and . _ / -, at most 32 characters",
)
_TEXT = Text()
MARKS = Number()

DEVICE = Record(
    {
        "kind": Key(Choice(*Kind), "what the device is", required=True),
        "ports": Key(
            Many(
                Either(
                    PORT_NAME,
                    Record(
                        {
                            "name": Key(PORT_NAME, "the port's name", required=True),
                            "medium": Key(
                                Choice(*Medium), "what kind of link it takes; ethernet where it is left out"
                            ),
                        },
                        "name and medium",
                    ),
                )
            ),
            "its physical ports; a host without them has one, p1",
        ),
        "about": Key(_TEXT, "where it stands or what it is for"),
    },
    "a device",
)
NETWORK = Record(
    {"prefix": Key(_TEXT, "its prefix"), "prefixes": Key(Many(_TEXT), "its prefixes, where it has several")},
    "a network",
)
_SENT = {
    "id": Key(ID, "the name that criteria use; its number in the list where it is left out"),
    "from": Key(_TEXT, "the device that asks", required=True),
    "source": Key(_TEXT, "a port of that device, or an address, to ask from"),
    "family": Key(Choice("4", "6"), "the family of addresses, where the target has both"),
    "note": Key(_TEXT, "what the instructor wants to remember"),
    "shown": Key(Truth(), "whether learners see it as a target"),
    "seen_as": Key(
        _TEXT,
        "the source that the answering device sees: an address, a prefix, a range, `pool NAME`, `own`, "
        "`not ADDRESS`",
    ),
    "answered_by": Key(_TEXT, "the device that has to answer"),
    "distinct": Key(_TEXT, "pings of one group have to be seen with a different source each"),
}
PING = Record(
    {
        **_SENT,
        "to": Key(_TEXT, "a device, DEVICE:PORT, or an address", required=True),
        "out": Key(_TEXT, "the port to leave by, for a link-local address"),
        "expect": Key(
            Choice(Outcome.REPLY, "no-reply", Outcome.TIMEOUT, Outcome.UNREACHABLE, Outcome.NO_ROUTE),
            "the outcome; no-reply is any failure",
            required=True,
        ),
    },
    "a ping",
)
SERVICE = Record(
    {
        **_SENT,
        "open": Key(_TEXT, "`tcp TARGET:N` or `udp TARGET:N`: the target is a device, an address or a name"),
        "resolve": Key(_TEXT, "a name to look up"),
        "expect": Key(
            _TEXT, "answer or no-answer; for a name, also the address it stands for", required=True
        ),
    },
    "a service check",
)
CRITERION = Record(
    {
        "marks": Key(MARKS, "what it earns; 1 where it is left out"),
        "accept": Key(
            Many(_TEXT), "lines of a sheet, in the place of what the model answer has: further answers"
        ),
    },
    "a criterion",
)
"""A criterion: what all of them may say. Their keys are added by :func:`~zensur.core.lab.keys.declare`."""
OF = Key(
    _TEXT,
    "what a translation is of (an internal address, `tcp ADDRESS:N`, a prefix or a list), or the port of an instance",
)
IN = Key(_TEXT, "the network instance, where a box has several; the main one where left out")
"""Keys that several criteria share."""
TASK = Record(
    {
        "title": Key(_TEXT, "the task's heading", required=True),
        "criteria": Key(Many(CRITERION), "what earns marks", required=True),
    },
    "a task",
)
SCHEME = Record(
    {
        "tasks": Key(
            Either(Choice("auto"), Many(TASK)), "the tasks; auto derives them from the model answer"
        ),
        "strictness": Key(
            Choice("effect", "form"), "how routes and translations are judged; effect where left out"
        ),
        "extras": Key(
            Choice("ignore", "report", "charge"), "statements that nobody asked for; report where left out"
        ),
        "charge": Key(MARKS, "what each extra costs, with extras: charge"),
        "charge_limit": Key(MARKS, "what extras cost at most in all"),
        "total": Key(MARKS, "what all criteria add up to; the lab check says where they do not"),
        "carry_forward": Key(Truth(), "whether a mistake is charged once; true where left out"),
        "grades": Key(Named(Number(0, 100)), "by grade the percentage from which on it is earned"),
    },
    "the marking scheme",
)
_SHEETS = Named(Text(what="a sheet"))
_ASKED = {
    "given": Key(_SHEETS, "sheets that are already in place; learners add to them"),
    "answer": Key(_SHEETS, "the model answer: all that a full paper has beyond given"),
    "pings": Key(Many(PING), "what every ping has to do, run in this order"),
    "services": Key(Many(SERVICE), "what has to come of opening services and looking up names"),
    "scheme": Key(SCHEME, "the marking scheme"),
}
STAGE = Record(
    {
        "id": Key(ID, "the stage's id", required=True),
        "title": Key(_TEXT, "its title"),
        "brief": Key(_TEXT, "Markdown, shown to learners"),
        "remove": Key(
            Named(Many(_TEXT)), "by device: first words of statements or headers that this stage takes away"
        ),
        **_ASKED,
    },
    "a stage",
)
VARIABLE = Record(
    {
        "from": Key(Number(0, 999_999, whole=True), "the smallest value", required=True),
        "to": Key(Number(0, 999_999, whole=True), "the largest value", required=True),
    },
    "from and to",
)
FREE_NETWORK = Record(
    {
        "network": Key(_TEXT, "the name of a network", required=True),
        "from": Key(_TEXT, "the prefix within which a subnet is chosen", required=True),
        "length": Key(Number(1, 128, whole=True), "the length of the subnet", required=True),
    },
    "network, from and length",
)
LAB = Record(
    {
        "zensur": Key(Choice("1"), "the version of the format", required=True),
        "id": Key(ID, "the lab's id", required=True),
        "title": Key(_TEXT, "the lab's title"),
        "brief": Key(_TEXT, "Markdown, shown to learners"),
        "topics": Key(Many(_TEXT), "what it is about, for the shelf"),
        "level": Key(_TEXT, "how hard it is, for the shelf"),
        "minutes": Key(Number(1, 10_000, whole=True), "how long it takes, for the shelf"),
        "variables": Key(
            Named(VARIABLE), "whole numbers that differ from learner to learner, written ${NAME}"
        ),
        "devices": Key(Named(DEVICE), "routers, switches and hosts, by name", required=True),
        "links": Key(Many(Text(what="a link")), "DEVICE:PORT -- DEVICE:PORT, a serial one with clock DEVICE"),
        "cabling": Key(
            Choice("asked"), "learners cable, too, and hand in `links.cabling`; links are the model answer's"
        ),
        "networks": Key(Named(NETWORK), "names of networks, for the chart"),
        "order": Key(
            Choice("worked out", "as listed"),
            "how the columns of the chart stand: short, or as devices are listed; worked out where left out",
        ),
        "start": Key(_SHEETS, "sheets that learners begin with and may change"),
        "plan": Key(
            Choice("given", "all"),
            "which addresses learners read in the plan: those that are given, or all of the model answer's; given "
            "where left out",
        ),
        "hidden": Key(Many(_TEXT), "devices whose given sheets learners may not read"),
        "free": Key(
            Many(Either(Text(what="DEVICE:PORT"), FREE_NETWORK)),
            "what learners choose: host parts by DEVICE:PORT, whole subnets by network, from and length",
        ),
        **_ASKED,
        "stages": Key(Many(STAGE), "in place of answer, pings, services and scheme: several, sat in order"),
    },
    "a lab",
)


def lab_schema() -> Schema:
    """Return the JSON Schema (2020-12) of lab files."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "$id": "urn:zensur:lab:1",
        "title": "Zensur lab file",
        **LAB.schema(),
    }
