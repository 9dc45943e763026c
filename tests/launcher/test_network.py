"""Names and addresses of this machine."""

import ipaddress

import pytest

from launcher import network


def test_addresses_are_those_of_the_network():
    for address in network.addresses():
        assert not ipaddress.ip_address(address).is_loopback


@pytest.mark.parametrize("name", ["press-room", "press-room.local", "10.0.0.7", "2001:db8::1"])
def test_names_of_machines(name):
    assert network.is_name(name)


@pytest.mark.parametrize("name", ["", "-a", "a b", "a_b", "a..b", "http://a", "a" * 300, "*.a"])
def test_what_is_no_name_of_a_machine(name):
    assert not network.is_name(name)
