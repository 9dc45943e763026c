"""What is killed, and a disk that is full, cost nobody an entry: real processes under load."""

import os
import signal
import subprocess
import tempfile
import threading
import time
from pathlib import Path

import pytest

from tests.support.open_room import Tablet, open_room

pytestmark = pytest.mark.long
# The data of a small room and its log, and little more.
DISK_MB = 400
# Nobody waits longer for a room that something in it was killed in.
BACK_WITHIN_S = 45


@pytest.fixture(scope="module")
def small_disk():
    """A disk that can be filled; none where nobody may mount one."""
    folder = Path(tempfile.mkdtemp(prefix="tempermark-disk-", dir="/var/tmp"))
    mount = ["mount", "-t", "tmpfs", "-o", f"size={DISK_MB}m,mode=755", "tmpfs", str(folder)]
    if subprocess.run(mount, capture_output=True).returncode:
        yield None
        return
    yield folder
    subprocess.run(["umount", "-l", str(folder)], check=True)
    folder.rmdir()


@pytest.fixture(scope="module")
def room(small_disk):
    with open_room("killed", small_disk / "room" if small_disk else None) as found:
        yield found


@pytest.fixture
def at_work(room):
    """People who press all the while; what they were answered is looked at in the end."""
    ends = threading.Event()
    tablets = [Tablet(room, run) for run in room.runs[:4]]
    threads = [threading.Thread(target=tablet.work, args=(ends,)) for tablet in tablets]
    for thread in threads:
        thread.start()
    time.sleep(2)
    yield tablets
    goes_on(tablets)
    ends.set()
    for thread in threads:
        thread.join()
    kept = room.keys()
    assert len(kept) == len(set(kept))
    for tablet in tablets:
        assert not tablet.refused
        assert tablet.confirmed
        assert set(tablet.confirmed) <= set(kept)
        # Nobody was shown a bare failure: an answer, a "not now", or the line was cut.
        assert set(tablet.statuses) <= {200, 503, 0}


def goes_on(tablets):
    """Everybody's entries are confirmed again, within the time."""
    before = [len(tablet.confirmed) for tablet in tablets]
    end = time.monotonic() + BACK_WITHIN_S
    while any(len(t.confirmed) <= n + 1 for t, n in zip(tablets, before, strict=True)):
        assert time.monotonic() < end, "the room did not come back"
        time.sleep(0.3)


def test_the_database_is_killed(room, at_work):
    pid = int(room.database._read(room.database.data / "postmaster.pid").splitlines()[0])
    os.kill(pid, signal.SIGKILL)
    goes_on(at_work)


def test_a_process_of_the_database_is_killed(room, at_work):
    pid = int(room.database._read(room.database.data / "postmaster.pid").splitlines()[0])
    found = subprocess.run(["pgrep", "-P", str(pid)], capture_output=True, text=True)
    os.kill(int(found.stdout.split()[-1]), signal.SIGKILL)
    goes_on(at_work)


def test_workers_of_the_web_server_are_killed_one_after_another(room, at_work):
    for _ in range(3):
        os.kill(room.workers()[0], signal.SIGKILL)
        goes_on(at_work)


def test_the_web_server_is_killed(room, at_work):
    first = room.web
    os.kill(first, signal.SIGKILL)
    goes_on(at_work)
    # It answers a moment before the supervisor has seen that it does.
    end = time.monotonic() + BACK_WITHIN_S
    while room.web == first:
        assert time.monotonic() < end
        time.sleep(0.1)


def test_the_disk_is_full_for_a_while(room, small_disk, at_work):
    if small_disk is None:
        pytest.skip("nobody may mount a small disk here")
    ballast = small_disk / "ballast"
    try:
        with ballast.open("wb", buffering=0) as file, pytest.raises(OSError, match="No space left"):
            while True:
                file.write(b"0" * 65536)
        time.sleep(8)
        before = [len(tablet.confirmed) for tablet in at_work]
    finally:
        ballast.unlink()
    goes_on(at_work)
    assert all(len(t.confirmed) > n for t, n in zip(at_work, before, strict=True))
