"""A room's database ends with its launcher, however that ends."""

import json
import os
import subprocess
import sys

import pytest

from launcher import keeper, paths, server, system
from launcher.cluster import Cluster
from tests.support.clusters import folder_for_clusters, wait_for_end

OPENED = """
import sys
from pathlib import Path
from launcher.cluster import Cluster
from launcher.keeper import Keeper
database = Cluster("test", Path(sys.argv[1]), Path(sys.argv[2]))
database.start()
kept = Keeper(database)
print("kept by", kept.process.pid, flush=True)
sys.stdin.readline()
kept.end()
print("let go", flush=True)
sys.stdin.readline()
"""


@pytest.fixture
def opened():
    """A launcher that has begun a database, and that database."""
    with folder_for_clusters() as top:
        database = Cluster("test", top / "room", system.need_postgres())
        launcher = subprocess.Popen(
            [sys.executable, "-c", OPENED, str(database.home), str(database.bin)],
            cwd=paths.ROOT,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
        )
        try:
            # What the launcher says of ports comes before.
            line = next(line for line in launcher.stdout if line.startswith(b"kept by"))
            launcher.kept = int(line.split()[-1])
            yield launcher, database
        finally:
            launcher.kill()
            launcher.communicate()
            database.stop()


def test_a_launcher_that_is_killed_leaves_no_database(opened):
    launcher, database = opened
    assert database.running_port() is not None
    launcher.kill()
    launcher.wait()
    wait_for_end(launcher.kept, within_s=60)
    assert database.running_port() is None


def test_one_that_lets_it_go_ends_it_itself(opened):
    launcher, database = opened
    launcher.stdin.write(b"\n")
    launcher.stdin.flush()
    assert launcher.stdout.readline() == b"let go\n"
    wait_for_end(launcher.kept, within_s=60)
    assert database.running_port() is not None


class Database:
    """Says whether it was stopped."""

    def __init__(self):
        self.room, self.stopped = "demo", False

    def stop(self):
        self.stopped = True


def test_a_room_that_another_launcher_has_opened_since_stays_open(tmp_path, monkeypatch):
    monkeypatch.setattr(paths, "LOCAL", tmp_path)
    monkeypatch.setattr(paths, "LOCK_FILE", tmp_path / "lock")
    monkeypatch.setattr(sys, "stdin", (tmp_path / "nothing").open("w+"))
    code = "print('here', flush=True); import time; time.sleep(60)  # gunicorn"
    web = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE)
    web.stdout.readline()
    try:
        for launcher, is_stopped in ((os.getpid(), False), (7, True)):
            note = {"pid": web.pid, "url": "http://127.0.0.1:9", "launcher": launcher}
            server.state_file("demo").write_text(json.dumps(note))
            database = Database()
            keeper.end_after(database, 7)
            assert database.stopped == is_stopped
    finally:
        web.kill()
        web.communicate()
