"""The parent of a room: what ends by itself runs again, ever later, and ends with it."""

import subprocess
import sys
import time

import pytest

from launcher.say import Stop
from launcher.supervisor import MOST_FAILURES, Supervisor


class Database:
    """A database that answers or not."""

    def __init__(self):
        self.runs, self.starts = True, 0

    def running_port(self):
        return 5432 if self.runs else None

    def start(self):
        self.starts += 1
        if self.starts < 2:
            raise Stop("not yet")
        self.runs = True


def sleeper():
    return subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"], process_group=0)


@pytest.fixture
def supervisor():
    made = Supervisor(Database())
    yield made
    made.end()


def gone(process):
    process.kill()
    process.wait()


def test_a_child_that_ends_is_begun_again_and_ever_later(supervisor, capsys):
    supervisor.begin("worker", sleeper)
    (child,) = supervisor.children
    first, now = child.process.pid, time.monotonic()
    assert supervisor.look(now)
    gone(child.process)
    assert supervisor.look(now)
    assert child.process.poll() is not None
    assert supervisor.look(now + 0.6)
    assert child.process.pid != first
    gone(child.process)
    supervisor.look(now + 1)
    supervisor.look(now + 1.9)
    assert child.process.poll() is not None
    supervisor.look(now + 2.1)
    assert child.process.poll() is None
    assert "The worker ended by itself (-9); starting it again." in capsys.readouterr().err


def test_what_cannot_be_begun_again_is_given_up(supervisor):
    supervisor.begin("web server", sleeper)
    (child,) = supervisor.children

    def refuses():
        raise Stop("The web server does not start")

    child.begin = refuses
    gone(child.process)
    now, of_use = time.monotonic(), []
    for step in range(MOST_FAILURES + 2):
        of_use.append(supervisor.look(now + 100 * step))
    assert of_use[:3] == [True, True, True]
    assert of_use[-1] is False


def test_a_database_that_ended_is_started_until_it_runs(supervisor):
    database = supervisor.database
    database.runs = False
    now = time.monotonic()
    supervisor.look(now + 1)
    assert database.starts == 0
    for step in (6, 12, 18):
        assert supervisor.look(now + step)
    assert (database.starts, database.runs) == (2, True)


def test_everything_ends_with_it(supervisor):
    supervisor.begin("web server", sleeper)
    supervisor.begin("worker", sleeper)
    supervisor.end()
    assert all(child.process.poll() is not None for child in supervisor.children)
