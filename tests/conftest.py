"""Fixtures for everything that touches the database."""

import pytest

from tests.support import room


@pytest.fixture
def technician(db):
    return room.person("isla", "technician")


@pytest.fixture
def lead(db):
    return room.person("maren", "lead")


@pytest.fixture
def clerk(db):
    return room.person("tomke", "clerk")


@pytest.fixture
def element(db):
    return room.element("Heron")


@pytest.fixture
def browse(client, technician):
    """A client signed in as a technician."""
    client.force_login(technician)
    return client
