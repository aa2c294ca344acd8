from ipaddress import IPv4Network, ip_interface, ip_network

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zensur.core.addresses import (
    BadValue,
    mask_length,
    mask_of,
    next_free,
    parse_address,
    parse_interface,
    parse_prefix,
    subnet,
    wildcard_length,
    wildcard_of,
)


@given(st.integers(0, 32))
def test_masks_and_wildcards_are_read_as_they_are_written(length: int) -> None:
    assert mask_length(mask_of(length)) == length
    assert wildcard_length(wildcard_of(length)) == length


@pytest.mark.parametrize(
    ("read", "text", "code", "suggestion"),
    [
        (mask_length, "255.255.0.255", "mask-not-contiguous", "255.255.0.0"),
        (mask_length, "0.0.0.255", "wildcard-for-mask", "255.255.255.0"),
        (wildcard_length, "255.255.255.0", "mask-for-wildcard", "0.0.0.255"),
        (wildcard_length, "0.0.255.0", "wildcard-not-contiguous", "0.0.255.255"),
        (mask_length, "24", "bad-mask", None),
        (parse_address, "10.0.0.256", "bad-address", None),
        (parse_address, "10.0.0", "bad-address", None),
        (parse_address, "10.0.0.01", "bad-address", None),
        (parse_address, "fe80::1%p1", "bad-address", None),
        (parse_address, "10.0.0.1/24", "length-not-wanted", "10.0.0.1"),
        (parse_interface, "10.0.0.1", "length-missing", None),
        (parse_interface, "10.0.0.1/33", "bad-length", None),
        (parse_interface, "2001:db8::1/129", "bad-length", None),
        (parse_prefix, "10.64.17.9/20", "host-bits", "10.64.16.0/20"),
    ],
)
def test_a_bad_value_says_what_was_meant(read, text, code, suggestion) -> None:
    with pytest.raises(BadValue) as bad:
        read(text)
    assert (bad.value.code, bad.value.suggestion) == (code, suggestion)
    assert str(bad.value).endswith(".")


@given(st.text(max_size=40))
def test_any_text_is_an_address_or_a_bad_value(text: str) -> None:
    for read in (parse_address, parse_interface, parse_prefix, mask_length, wildcard_length):
        try:
            read(text)
        except BadValue as bad:
            assert bad.code


@pytest.mark.parametrize(
    ("text", "first", "last", "usable", "broadcast", "kind"),
    [
        ("10.64.9.1/28", "10.64.9.1", "10.64.9.14", 14, "10.64.9.15", "private"),
        ("203.0.113.2/31", "203.0.113.2", "203.0.113.3", 2, None, "documentation"),
        ("100.64.0.1/32", "100.64.0.1", "100.64.0.1", 1, None, "shared"),
        ("2001:db8::1/64", "2001:db8::1", "2001:db8::ffff:ffff:ffff:ffff", 2**64 - 1, None, "documentation"),
        ("8.8.8.8/24", "8.8.8.1", "8.8.8.254", 254, "8.8.8.255", "public"),
    ],
)
def test_subnet_helper(text, first, last, usable, broadcast, kind) -> None:
    found = subnet(ip_interface(text))
    assert (str(found.first), str(found.last), found.usable, found.kind) == (first, last, usable, kind)
    assert (None if found.broadcast is None else str(found.broadcast)) == broadcast


@given(
    st.integers(8, 30),
    st.integers(0, 2**32 - 1),
    st.lists(st.tuples(st.integers(0, 2**32 - 1), st.integers(8, 30)), max_size=12),
)
def test_the_next_free_network_overlaps_nothing(length, number, others) -> None:
    network = IPv4Network((number >> (32 - length) << (32 - length), length))
    taken = [network, *(IPv4Network((n >> (32 - size) << (32 - size), size)) for n, size in others)]
    free = next_free(network, taken)
    assert free is None or (free.prefixlen == length and not any(free.overlaps(t) for t in taken))
    assert next_free(ip_network("255.255.255.0/24"), []) is None
