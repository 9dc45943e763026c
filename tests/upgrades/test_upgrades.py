"""Rooms of every landed version come up to this one with all that was in them.

`tools/upgrade_fixture COMMIT` dumps a room of another version.
"""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
from django.db import connection

from launcher import system

pytestmark = pytest.mark.long
HERE = Path(__file__).parent
DUMPS = sorted((HERE / "dumps").glob("*.dump"))
LOOK = "from tests.upgrades.look import upgrade_and_look; upgrade_and_look()"
# Tables that later versions gave other names.
RENAMED: dict[str, str] = {}
TABLES = "SELECT tablename FROM pg_tables WHERE schemaname = 'public'"
NOT_OURS = ("django_migrations", "django_content_type", "auth_permission")


class Old:
    """A database of its own, filled from a dump."""

    def __init__(self, dump):
        self.settings = connection.settings_dict
        self.name = f"upgrade_{os.getpid()}"
        self.bin = system.postgres_bin()
        self._client("psql", "-d", "postgres", "-c", f"DROP DATABASE IF EXISTS {self.name}")
        self._client("psql", "-d", "postgres", "-c", f"CREATE DATABASE {self.name}")
        self._client("pg_restore", "-d", self.name, "--no-owner", "--exit-on-error", str(dump))

    def _client(self, program, *arguments):
        where = ["-h", self.settings["HOST"], "-p", str(self.settings["PORT"])]
        done = subprocess.run(
            [str(self.bin / program), *where, "-U", self.settings["USER"], *arguments],
            capture_output=True,
            text=True,
            env={**os.environ, "PGPASSWORD": self.settings["PASSWORD"]},
        )
        assert done.returncode == 0, done.stderr
        return done.stdout

    def rows(self):
        tables = self._client("psql", "-d", self.name, "-tAc", TABLES).split()
        kept = [t for t in tables if t not in NOT_OURS]
        counts = " UNION ALL ".join(f"SELECT '{t}', count(*) FROM {t}" for t in kept)
        lines = self._client("psql", "-d", self.name, "-tAc", counts).split()
        return {name: int(count) for name, count in (line.split("|") for line in lines)}

    def run(self, *words):
        env = {**os.environ, "TEMPERMARK_DB_NAME": self.name}
        env["PYTHONPATH"] = os.pathsep.join([str(HERE.parents[1] / "src"), str(HERE.parents[1])])
        return subprocess.run(
            [sys.executable, "-W", "ignore", *words], capture_output=True, text=True, env=env
        )

    def drop(self):
        self._client("psql", "-d", "postgres", "-c", f"DROP DATABASE {self.name} WITH (FORCE)")


@pytest.fixture
def old(request):
    found = Old(request.param)
    yield found
    found.drop()


every_version = pytest.mark.parametrize("old", DUMPS, ids=lambda path: path.stem, indirect=True)
oldest = pytest.mark.parametrize("old", DUMPS[:1], ids=lambda path: path.stem, indirect=True)


def test_there_are_rooms_of_earlier_versions():
    assert len(DUMPS) >= 5


@every_version
def test_a_room_comes_up_with_all_that_was_in_it(old):
    before = old.rows()
    assert before["run_testpress"]
    assert before["measure_reading"]
    done = old.run("-m", "django", "shell", "-v", "0", "-c", LOOK)
    assert done.returncode == 0, done.stderr
    after = old.rows()
    lost = {
        name: (count, after.get(RENAMED.get(name, name)))
        for name, count in before.items()
        if count and (after.get(RENAMED.get(name, name)) or 0) < count
    }
    assert not lost
    seen = json.loads(done.stdout)
    assert (seen["fit"], seen["pending"]) == ("same", 0)
    assert {page: status for page, status in seen["pages"].items() if status != 200} == {}


@oldest
def test_a_room_of_a_later_version_is_not_served(old):
    later = "INSERT INTO django_migrations (app, name, applied) VALUES ('kit', '0999_later', now())"
    old._client("psql", "-d", old.name, "-c", later)
    assert old.run("-m", "django", "pending_steps").stdout.strip() == "newer"
    done = old.run("-m", "django", "must_fit")
    assert done.returncode != 0
    assert "kit.0999_later" in done.stderr


@oldest
def test_a_room_that_lacks_steps_is_not_served(old):
    assert int(old.run("-m", "django", "pending_steps").stdout) > 0
    assert "older for this version" in old.run("-m", "django", "must_fit").stderr
