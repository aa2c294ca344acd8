"""Configurations drawn at random, with every statement of the table and every kind of value."""

from ipaddress import ip_address, ip_interface, ip_network

from hypothesis import strategies as st

from zensur.core.addresses import AddressRange
from zensur.core.sheet import BLOCKS, STATEMENTS, Block, Configuration, Endpoint, Item, Masked, Route, VlanSet
from zensur.core.sheet.operands import OPERANDS
from zensur.core.sheet.statement import TOP
from zensur.core.sheet.words import RESERVED

names = st.from_regex(r"[a-z][a-z0-9_-]{0,8}", fullmatch=True).filter(lambda n: n not in RESERVED)
domains = st.from_regex(r"[a-z][a-z0-9-]{0,6}[a-z](\.[a-z]{2,5}){0,2}", fullmatch=True)
texts = st.text(
    st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Zl", "Zp")), min_size=1, max_size=30
).filter(lambda t: t.strip() != "")
v4 = st.integers(1, 2**32 - 1).map(ip_address)
v6 = st.integers(2**120, 2**128 - 1).map(ip_address)
addresses = v4 | v6
vlans = st.integers(1, 4094)
spans = st.tuples(vlans, vlans).map(lambda pair: (min(pair), max(pair)))


@st.composite
def interfaces(draw):
    address = draw(addresses)
    return ip_interface((address, draw(st.integers(1, address.max_prefixlen))))


@st.composite
def prefixes(draw, families=(4, 6)):
    top = 32 if draw(st.sampled_from(families)) == 4 else 128
    length = draw(st.integers(0, top))
    number = draw(st.integers(0, 2**top - 1)) >> (top - length) << (top - length)
    return ip_network((number, length)) if top == 32 else ip_network((number.to_bytes(16, "big"), length))


ranges = st.tuples(v4, v4).map(lambda pair: AddressRange(min(pair), max(pair)))
v4_prefixes = prefixes(families=(4,))
numbers = st.integers(1, 65535)

VALUES = {
    "address": addresses,
    "interface": interfaces().map(Masked),
    "destination": prefixes(),
    "network": v4_prefixes,
    "entry": prefixes(),
    "range": ranges,
    "excluded": ranges | v4.map(lambda a: AddressRange(a, a)),
    "leased": v4,
    "addresses": ranges | v4_prefixes,
    "inner": v4,
    "outer": v4 | names,
    "inner-endpoint": st.builds(Endpoint, v4, numbers),
    "outer-endpoint": st.builds(Endpoint, v4 | names, numbers),
    "who": v4_prefixes | names,
    "pool-or-port": names,
    "next-hop": addresses,
    "port": names,
    "name": names,
    "instance": names,
    "domain": domains,
    "vlan": vlans,
    "vlans": st.lists(spans, min_size=1, max_size=3).map(VlanSet.of) | st.just(VlanSet.of([(1, 4094)])),
    "preference": st.integers(1, 255),
    "number": numbers,
    "rate": st.integers(1, 10**11),
    "seconds": st.integers(1, 2**32 - 1),
    "text": texts,
}
"""A strategy for every operand by the name that the forms use."""

_STRATEGIES = {id(OPERANDS[name]): strategy for name, strategy in VALUES.items()}


@st.composite
def statements(draw, kind):
    """Draw one statement of a kind, in any of its forms, with any of its tails."""
    form = draw(st.sampled_from(kind.SPEC.forms))
    elements = form.elements if draw(st.booleans()) else list(form.must)
    elements += [e for tail in kind.SPEC.tails if draw(st.booleans()) for e in tail.must]
    fields = dict(form.fixed)
    for element in elements:
        if not isinstance(element, str):
            fields[element.field] = draw(_STRATEGIES[id(element.operand)])
    if kind is Route and fields.get("next_hop") is not None:
        fields["dest"] = draw(prefixes(families=(fields["next_hop"].version,)))
    if fields.get("first") is not None:
        fields["first"], fields["last"] = sorted((fields["first"], fields["last"]))
    return kind(**fields)


@st.composite
def blocks(draw, kind):
    """Draw one block with its statements, as items."""
    instance = draw(st.none() | names) if kind.in_instance else None
    if kind.operand is None:
        name = ""
    elif kind.operand == "vlan":
        name = str(draw(vlans))
    else:
        name = draw(names)
        if kind.word == "port" and draw(st.booleans()):
            name += f".{draw(vlans)}"
    block = Block(kind.word, name, instance)
    inside = [k for k in STATEMENTS if block.place in k.SPEC.places]
    chosen = draw(st.lists(st.sampled_from(inside), max_size=5))
    return [Item(block, draw(statements(k))) for k in chosen]


@st.composite
def configurations(draw):
    """Draw a configuration."""
    top = [k for k in STATEMENTS if TOP in k.SPEC.places]
    items = [Item(None, draw(statements(k))) for k in draw(st.lists(st.sampled_from(top), max_size=6))]
    for kind in draw(st.lists(st.sampled_from(BLOCKS), max_size=4)):
        items += draw(blocks(kind))
    return Configuration.of_items({item.slot: item for item in items}.values())
