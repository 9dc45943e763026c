"""What is costly to build: built once for all tests of a module, and as it was for each."""

from contextlib import contextmanager

from django.db import transaction


@contextmanager
def kept(blocker, build):
    """What ``build`` makes in the database, until the last test of the module; what a test of
    the mark ``django_db`` does on top is taken back after it.
    """
    with blocker.unblock(), transaction.atomic():
        yield build()
        transaction.set_rollback(True)
