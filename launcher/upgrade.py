"""Another version meets a room's data: a backup first, then its steps, and back where one fails."""

import shutil
from dataclasses import dataclass
from pathlib import Path

from launcher import rooms, server
from launcher.backups.log_archive import LogArchive
from launcher.backups.make import backup
from launcher.backups.settings import BackupSettings
from launcher.cluster import Cluster
from launcher.say import Stop, say, warn

# What `manage.py pending_steps` answers in its last line.
NEWER, NONE_YET = "newer", "none yet"
BEFORE = "data-before-upgrade"


@dataclass(frozen=True)
class Opened:
    """A room's database that is up to date: where it answers, and what Django needs to know."""

    port: int
    env: dict[str, str]


def open_up_to_date(
    room: Cluster, port: int, archive: LogArchive | None, settings: BackupSettings
) -> Opened:
    """Bring a shop's data to this version. Raises Stop with the data as they were: where they were
    written by a newer version, no backup can be made first, or a step fails.
    """
    env = server.environment(room.room, room.environment(port))
    steps = _pending(env)
    if steps == NEWER:
        raise Stop(
            "These data were written by a newer version of Tempermark. Update this one, or bring "
            "back a backup from before: ./tempermark restore FILE"
        )
    if steps in ("0", NONE_YET):
        rooms.prepare_data(room.room, env)
        return Opened(port, env)
    say(f"This version changes the tables in {steps} steps: a backup first.")
    backup(room, port, settings, archive)
    return _stepped(room, port, env)


def _pending(env: dict[str, str]) -> str:
    done = rooms.manage(env, "pending_steps")
    if done.returncode:
        raise Stop(f"The database could not be read: {done.stderr.strip()[-400:]}")
    return done.stdout.strip().splitlines()[-1]


def _stepped(room: Cluster, port: int, env: dict[str, str]) -> Opened:
    """The steps, on data of which a copy lies beside them until they are through."""
    before = room.home / BEFORE
    room.stop()
    for old in (before, room.run / BEFORE):
        _forget(room, old)
    done = room.as_owner("cp", "-a", "--reflink=auto", str(room.data), str(room.run / BEFORE))
    if done.returncode:
        room.as_owner("rm", "-rf", str(room.run / BEFORE))
        raise Stop(f"The data could not be copied first: {done.stderr.strip()[-200:]}")
    (room.run / BEFORE).rename(before)
    port, _ = room.start()
    env = server.environment(room.room, room.environment(port))
    try:
        rooms.prepare_data(room.room, env)
    except BaseException:
        room.stop()
        room.data.rename(room.home / "data-failed")
        before.rename(room.data)
        _forget(room, room.home / "data-failed")
        warn("The data are as they were before the upgrade: open them with the earlier version.")
        raise
    _forget(room, before)
    return Opened(port, env)


def _forget(room: Cluster, folder: Path) -> None:
    room.as_owner("rm", "-rf", str(folder))
    shutil.rmtree(folder, ignore_errors=True)
