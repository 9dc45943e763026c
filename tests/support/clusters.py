"""A cluster of a test, in a folder with a space where the server's user can go."""

import shutil
import subprocess
import tempfile
import time
from contextlib import contextmanager
from pathlib import Path

from launcher import system


@contextmanager
def folder_for_clusters():
    """The folder, until the end."""
    top = Path(tempfile.mkdtemp(prefix="tempermark test ", dir="/var/tmp"))
    top.chmod(0o755)
    yield top
    shutil.rmtree(top, ignore_errors=True)


def sql(cluster, text):
    """What a statement answers on a running cluster."""
    psql = cluster.client(
        "psql", cluster.running_port(), "-qtAX", "-v", "ON_ERROR_STOP=1", "-c", text
    )
    done = subprocess.run(psql, capture_output=True, text=True, env=cluster.secrets(), check=True)
    return done.stdout.strip()


def wait_for_end(pid, within_s=20):
    """A signal reaches a process when its turn comes, which may be late on busy cores."""
    deadline = time.monotonic() + within_s
    while system.lives(pid):
        assert time.monotonic() < deadline
        time.sleep(0.02)
