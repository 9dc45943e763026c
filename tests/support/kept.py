"""What is costly to build: built once for all tests of a module, and as it was for each."""

from contextlib import contextmanager

from django.db import transaction


@contextmanager
def kept(blocker, build):
    """What ``build`` makes in the database, until the last test of the module."""
    with blocker.unblock(), undone():
        yield build()


@contextmanager
def undone():
    """Whatever happens inside is taken back at the end."""
    with transaction.atomic():
        yield
        transaction.set_rollback(True)
