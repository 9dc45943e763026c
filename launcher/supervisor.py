"""One parent for a room: it starts web server, worker and database again when they end by
themselves, and ends all of them with itself.
"""

import subprocess
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

from launcher import server
from launcher.cluster import Cluster
from launcher.say import Stop, say, warn

LOOK_EVERY_S = 0.5
DATABASE_EVERY_S = 5.0
# What ends again and again is started again ever later; what lasted so long begins anew.
FIRST_PAUSE_S, LONGEST_PAUSE_S, LASTED_S = 0.5, 30.0, 60.0
# A web server that never comes up is no use to anybody: the room is given up.
MOST_FAILURES = 6


class Chore(Protocol):
    """What is looked at as often as the processes are: the daily backup, the certificate."""

    def look(self, now: float) -> None:
        """Look whether it is due; ``now`` by the steady clock."""

    def end(self) -> None:
        """End what is under way."""


@dataclass
class Child:
    """A process of the room, and how to begin it."""

    name: str
    begin: Callable[[], subprocess.Popen[bytes]]
    process: subprocess.Popen[bytes]
    begun_at: float
    pause_s: float = FIRST_PAUSE_S
    due_at: float | None = None
    failures: int = 0


class Supervisor:
    """Watches a room's processes and its database."""

    def __init__(self, database: Cluster, chores: Sequence[Chore] = ()) -> None:
        self.database = database
        self.chores: list[Chore] = [*chores]
        self.children: list[Child] = []
        self.looked_at = time.monotonic()

    def begin(self, name: str, begin: Callable[[], subprocess.Popen[bytes]]) -> None:
        """Begin a process and watch it from now on."""
        self.children.append(Child(name, begin, begin(), time.monotonic()))

    def begin_again(self, name: str) -> None:
        """End a process, and begin it anew at the next look: what it was begun with has changed."""
        for child in self.children:
            if child.name == name:
                server.stop(child.process)
                child.due_at = 0.0

    def watch(self) -> int:
        """Watch until something cannot be started any more; the exit code then."""
        while True:
            time.sleep(LOOK_EVERY_S)
            if not self.look(time.monotonic()):
                return 1

    def look(self, now: float) -> bool:
        """Start again what has ended; False once that is of no use."""
        if now - self.looked_at >= DATABASE_EVERY_S:
            self.looked_at = now
            self._look_at_database()
        for chore in self.chores:
            chore.look(now)
        is_of_use = True
        for child in self.children:
            is_of_use &= self._look_at(child, now)
        return is_of_use

    def _look_at_database(self) -> None:
        if self.database.running_port() is not None:
            return
        warn("The database ended by itself; starting it again.")
        try:
            self.database.start()
        except Stop as stop:
            warn(f"{stop}\nTrying again.")

    def _look_at(self, child: Child, now: float) -> bool:
        if child.due_at is None:
            code = child.process.poll()
            if code is None:
                return True
            if now - child.begun_at >= LASTED_S:
                child.pause_s, child.failures = FIRST_PAUSE_S, 0
            server.stop(child.process)
            warn(f"The {child.name} ended by itself ({code}); starting it again.")
            child.due_at = now + child.pause_s
            child.pause_s = min(child.pause_s * 2, LONGEST_PAUSE_S)
        if now < child.due_at:
            return True
        try:
            child.process = child.begin()
        except Stop as stop:
            child.failures += 1
            warn(str(stop))
            child.due_at = now + child.pause_s
            child.pause_s = min(child.pause_s * 2, LONGEST_PAUSE_S)
            return child.failures < MOST_FAILURES
        child.begun_at, child.due_at, child.failures = time.monotonic(), None, 0
        say(f"The {child.name} runs again.")
        return True

    def end(self) -> None:
        """End every process, the last that was begun first; the database is ended by whoever holds
        it.
        """
        for chore in self.chores:
            chore.end()
        for child in reversed(self.children):
            server.stop(child.process)
