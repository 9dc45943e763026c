"""Fixtures for everything that touches the database."""

import pytest
from django.test import Client
from hypothesis import settings

from tests.support import room

# No test is timed, and a run today tries what a run tomorrow tries.
settings.register_profile("room", deadline=None, derandomize=True)
settings.load_profile("room")


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


@pytest.fixture
def browse_as(db):
    """Another person's own browser."""

    def signed_in(person):
        browser = Client()
        browser.force_login(person)
        return browser

    return signed_in
