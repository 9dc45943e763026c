"""Ends a room's database when its launcher is killed outright: the server is no child of it, so
that the kernel cannot be asked to end it with its parent.
"""

import os
import subprocess
import sys
from pathlib import Path

from launcher import paths, server, system
from launcher.cluster import Cluster
from launcher.rooms import alone


class Keeper:
    """A process of its own that waits for the end of this one, however it comes."""

    def __init__(self, database: Cluster) -> None:
        self.database = database
        self.process = self._begun()

    def look(self, now: float) -> None:
        """Begin it again where it has ended; ``now`` by the steady clock."""
        if self.process.poll() is not None:
            self.process = self._begun()

    def end(self) -> None:
        """Let it go: whoever called ends the database."""
        self.process.kill()
        self.process.communicate()

    def _begun(self) -> subprocess.Popen[bytes]:
        # The pipe's other end is ours alone, and closes with us.
        return subprocess.Popen(
            [sys.executable, "-m", "launcher.keeper", *self._words()],
            cwd=paths.ROOT,
            stdin=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )

    def _words(self) -> list[str]:
        database = self.database
        return [database.room, str(database.home), str(database.bin), str(os.getpid())]


def end_after(database: Cluster, launcher: int) -> None:
    """End a database once a launcher has ended, unless another one has opened its room since."""
    sys.stdin.buffer.read()
    with alone():
        note = server.noted(database.room)
        other = None if note is None else note.get("launcher")
        if other in (None, launcher) or not system.lives(int(other)):
            database.stop()


if __name__ == "__main__":
    name, home, programs, number = sys.argv[1:]
    end_after(Cluster(name, Path(home), Path(programs)), int(number))
