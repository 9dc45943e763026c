"""The daily backup of an open room."""

import subprocess
import sys
import time
from datetime import datetime

from launcher import paths
from launcher.backups import settings as kept
from launcher.backups.make import last_in

LOOK_EVERY_S = 30.0
# One that failed is tried again after so long.
AGAIN_AFTER_S = 3600.0
# A room that was just opened is left alone for a while.
FIRST_AFTER_S = 120.0


class DailyBackup:
    """Begins a backup when one is due, as a process of its own, one at a time."""

    def __init__(self, room: str) -> None:
        self.room = room
        self.process: subprocess.Popen[bytes] | None = None
        self.not_before = time.monotonic() + FIRST_AFTER_S

    def look(self, now: float) -> None:
        """Look whether one is due; ``now`` by the steady clock."""
        if self.process is not None:
            if self.process.poll() is None:
                return
            self.not_before = now + (AGAIN_AFTER_S if self.process.returncode else LOOK_EVERY_S)
            self.process = None
        if now < self.not_before:
            return
        self.not_before = now + LOOK_EVERY_S
        settings, moment = kept.load(), datetime.now().astimezone()
        due = kept.due_at(settings, last_in(settings, self.room), moment)
        if due is not None and due <= moment:
            self.process = self._begun()

    def _begun(self) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", "launcher", "backup"]
        command += ["--demo"] if self.room == "demo" else []
        with (paths.LOCAL / "backup.log").open("a") as log:
            return subprocess.Popen(command, stdout=log, stderr=log, cwd=paths.ROOT)

    def end(self) -> None:
        """End one that is under way: what is half done is never taken for a backup."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            self.process.wait()
