"""What returns have replaced: listed, swapped in again, or deleted once nobody needs it."""

import shutil
import subprocess
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from launcher import server
from launcher.backups import settings as chosen
from launcher.backups.log_archive import ARCHIVE_ID
from launcher.cluster import Cluster
from launcher.say import Stop

KEPT = "-replaced-"
STAMP = "%Y-%m-%dT%H%M%S"


@dataclass(frozen=True)
class Replaced:
    """Data that a return replaced, and since when they lie there: a whole cluster, or, where the
    room went back to a moment, its data folder.
    """

    path: Path
    at: datetime

    @property
    def name(self) -> str:
        """What a person calls it by."""
        return self.path.name

    @property
    def archive_id(self) -> Path:
        """The file that names the archive of its log; a data folder is the server's: beside it."""
        if (self.path / "data").exists():
            return self.path / ARCHIVE_ID
        return self.path.with_name(f"{ARCHIVE_ID}-of-{self.path.name}")

    @property
    def bytes(self) -> int:
        """What it takes of the disk."""
        done = subprocess.run(["du", "-sb", str(self.path)], capture_output=True, text=True)
        return int((done.stdout.split() or ["0"])[0])


def name_aside(path: Path) -> Path:
    """Another name for data that are about to be replaced."""
    return path.with_name(f"{path.name}{KEPT}{datetime.now().astimezone().strftime(STAMP)}")


def move_aside(room: Cluster) -> Path | None:
    """Move a room's cluster to another name; None where there is none."""
    room.stop()
    if not room.home.exists():
        return None
    kept = name_aside(room.home)
    room.home.rename(kept)
    return kept


def all_replaced(room: Cluster) -> list[Replaced]:
    """What returns have replaced, oldest first."""
    homes = room.home.parent.glob(f"{room.home.name}{KEPT}*")
    found = [*homes, *room.home.glob(f"{room.data.name}{KEPT}*")]
    return sorted(filter(None, map(_read, found)), key=lambda one: one.at)


def _read(path: Path) -> Replaced | None:
    try:
        at = datetime.strptime(path.name.rpartition(KEPT)[2], STAMP).astimezone()
    except ValueError:
        return None
    return Replaced(path, at)


def swap_in(room: Cluster, name: str, confirmed: Callable[[str], bool]) -> Path | None:
    """Swap a room's data with what a return replaced; where those until now are kept. Raises Stop
    for a name that is none.
    """
    must_not_run(room)
    one = _named(room, name)
    if not confirmed(f"{name} becomes the data of {room.room} again."):
        raise Stop("Nothing was changed.")
    if one.path.parent != room.home:
        kept = move_aside(room)
        one.path.rename(room.home)
        return kept
    room.stop()
    aside = Replaced(name_aside(room.data), datetime.now().astimezone())
    room.data.rename(aside.path)
    one.path.rename(room.data)
    # A log fits one database alone: the archive stays with what wrote to it last; what has none of
    # its own begins one.
    own = room.home / ARCHIVE_ID
    for file, to in ((own, aside.archive_id), (one.archive_id, own)):
        if file.exists():
            file.rename(to)
    return aside.path


def delete(room: Cluster, name: str, confirmed: Callable[[str], bool]) -> int:
    """Delete what a return replaced, with the archive of its log; the bytes that were freed. Raises
    Stop for a name that is none.
    """
    one = _named(room, name)
    freed = one.bytes
    said = f"{name}, replaced at {one.at:%Y-%m-%d %H:%M}, {freed / 2**20:.0f} MiB, is deleted."
    if not confirmed(f"{said} Nothing brings it back."):
        raise Stop("Nothing was deleted.")
    for folder in (*_log_archives(one), one.path):
        room.as_owner("rm", "-rf", str(folder))
        shutil.rmtree(folder, ignore_errors=True)
    one.archive_id.unlink(missing_ok=True)
    if one.path.exists():
        raise Stop(f"{one.path} cannot be deleted by this user.")
    return freed


def _named(room: Cluster, name: str) -> Replaced:
    found = all_replaced(room)
    one = next((one for one in found if one.name == name), None)
    if one is None:
        names = ", ".join(one.name for one in found) or "none"
        raise Stop(f"{name} is not kept here. Kept: {names}.")
    return one


def _log_archives(one: Replaced) -> list[Path]:
    """The archives that hold its log and no other's, in the backups' folder or beside it."""
    own = one.archive_id.read_text().strip() if one.archive_id.exists() else ""
    if not own:
        return []
    folders = (chosen.load().where, one.path.parent)
    return [path for folder in folders for path in folder.glob(f"log-archive-*{own}")]


def must_not_run(room: Cluster) -> None:
    """Raises Stop while the room is open."""
    if server.noted(room.room) is not None:
        raise Stop("The room is open: stop it first, with ./tempermark stop.")
