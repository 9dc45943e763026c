"""Fixtures for everything that touches the database."""

import gc

import pytest
from django.template.base import Template
from django.test import Client, TransactionTestCase
from hypothesis import settings

from tests.support import room
from tests.support.databases import empty_tables, own_database

gc.set_threshold(20_000, 20, 20)

# No test is timed, and a run today tries what a run tomorrow tries.
settings.register_profile("room", deadline=None, derandomize=True)
settings.load_profile("room")


TransactionTestCase._fixture_teardown = empty_tables
RENDER = Template._render
MIGRATES = "tests/web/accounts/test_audit.py"
NO_DATABASE = ("tests/architecture/", "tests/core/", "tests/files/")


def pytest_collection_modifyitems(items):
    """What needs no database comes second: it is tested while the first worker migrates one."""
    items.sort(
        key=lambda item: (
            not item.nodeid.startswith(MIGRATES),
            not item.nodeid.startswith(NO_DATABASE),
        )
    )


def pytest_collection_finish():
    """What was imported stays to the end: it need not be looked through again and again."""
    gc.collect()
    gc.freeze()


@pytest.fixture(scope="session")
def django_db_setup(django_test_environment, django_db_blocker, django_db_modify_db_settings):
    """A database of this worker's own, copied from one that is migrated once."""
    # No test looks at what a template was given: pages are read as a browser reads them.
    Template._render = RENDER
    with django_db_blocker.unblock(), own_database():
        yield


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
