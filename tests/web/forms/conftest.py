"""One walk through all pages for all tests of a module; what a test sends is undone after it."""

import pytest

from tests.support.kept import kept
from tests.support.shop import walk


@pytest.fixture(scope="module")
def walked(django_db_setup, django_db_blocker):
    with kept(django_db_blocker, walk) as shop:
        yield shop


@pytest.fixture
def shop(db, walked):
    return walked
