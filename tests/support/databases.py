"""A database for a test worker: copied from one that the first worker migrates."""

import os
from contextlib import contextmanager
from functools import cache
from uuid import uuid4

from django.core.management import call_command
from django.db import connection

TEMPLATE = "migrated_for_tests"
# Workers take turns at the template.
LOCK = 8640
# The workers of one run share it; a run without workers is one of its own.
RUN = os.environ.get("PYTEST_XDIST_TESTRUNUID") or str(uuid4())
COMMENT = "SELECT shobj_description(oid, 'pg_database') FROM pg_database WHERE datname = %s"


@contextmanager
def own_database():
    """The connection leads to a fresh, migrated database until the end."""
    settings, creation = connection.settings_dict, connection.creation
    usual, own = settings["NAME"], creation._get_test_db_name()
    with creation._nodb_cursor() as cursor:
        cursor.execute("SELECT pg_advisory_lock(%s)", [LOCK])
        cursor.execute(COMMENT, [TEMPLATE])
        if cursor.fetchone() != (RUN,):
            _migrate(cursor)
        _drop(cursor, own)
        cursor.execute(f'CREATE DATABASE "{own}" TEMPLATE "{TEMPLATE}"')
        cursor.execute("SELECT pg_advisory_unlock(%s)", [LOCK])
    _lead_to(own)
    yield
    _lead_to(usual)
    with creation._nodb_cursor() as cursor:
        _drop(cursor, own)


@cache
def _emptying():
    """One statement that empties every table but those that hold what is always there."""
    kept = {"django_content_type", "auth_permission", "django_migrations"}
    names = set(connection.introspection.django_table_names(only_existing=True)) - kept
    deletions = " ".join(f'DELETE FROM "{name}";' for name in sorted(names))
    return f"DO $$BEGIN {deletions} END$$"


def empty_tables(case):
    """What a test that commits left is deleted: quicker than to truncate, for hardly anything is
    there. A log that refuses to be changed is asked as one that copies it.
    """
    with connection.cursor() as cursor:
        cursor.execute("SET session_replication_role = replica")
        cursor.execute(_emptying())
        cursor.execute("SET session_replication_role = DEFAULT")


def _migrate(cursor):
    """Make the template anew; said of this run once it is whole."""
    _drop(cursor, TEMPLATE)
    cursor.execute(f'CREATE DATABASE "{TEMPLATE}"')
    usual = connection.settings_dict["NAME"]
    _lead_to(TEMPLATE)
    call_command("migrate", verbosity=0)
    _lead_to(usual)
    cursor.execute(f"COMMENT ON DATABASE \"{TEMPLATE}\" IS '{RUN}'")


def _drop(cursor, name):
    cursor.execute(f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)')


def _lead_to(name):
    connection.close()
    connection.settings_dict["NAME"] = name
