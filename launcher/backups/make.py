"""A backup, from the dump to the note that it is good."""

import contextlib
import fcntl
import hashlib
import json
import shutil
import subprocess
import tempfile
import time
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from pathlib import Path

from launcher import paths, server
from launcher.backups import bundle, retention, snapshot
from launcher.backups.fingerprint import Fingerprint
from launcher.backups.log_archive import LogArchive
from launcher.backups.settings import BackupSettings
from launcher.cluster import Cluster, cluster
from launcher.say import Stop, warn
from launcher.version import source_version

SCRATCH = "scratch"
FULL_BASE_EVERY = timedelta(days=7)


@dataclass(frozen=True)
class Made:
    """What became of a backup; ``why`` is empty for a good one."""

    at_s: float
    where: str
    bytes: int
    rows: int
    took_s: float
    is_archived: bool
    why: str = ""


def backup(
    room: Cluster, port: int, settings: BackupSettings, archive: LogArchive | None = None
) -> Made:
    """Make a backup, read it back into a scratch database, compare, keep it, and note it for the
    floor page; a failure is noted too, but not that another one is under way. Raises Stop.
    """
    with _one_at_a_time():
        begun, at = time.monotonic(), datetime.now().astimezone()
        why, path, rows, is_archived = "", settings.where, 0, False
        try:
            need_space(room)
            path, rows = _kept(room, port, settings, at)
            is_archived = _archived(archive, at)
            for old in retention.outdated(bundle.bundles(path.parent, room.room), at):
                old.path.unlink(missing_ok=True)
        except (Stop, OSError) as error:
            why = str(error)[:400]
        size = path.stat().st_size if not why else 0
        took_s = round(time.monotonic() - begun, 1)
        made = Made(at.timestamp(), str(path), size, rows, took_s, is_archived, why)
        note(room, port, made)
    if why:
        raise Stop(why)
    return made


def _kept(room: Cluster, port: int, settings: BackupSettings, at: datetime) -> tuple[Path, int]:
    """The bundle in its folder, once what it holds is known to be what the room held."""
    folder = settings.ready()
    paths.LOCAL.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="backup-", dir=paths.LOCAL) as name:
        work = Path(name)
        found = snapshot.dump(room, port, work / bundle.DUMP)
        verify(work / bundle.DUMP, found)
        manifest = {
            "format": bundle.FORMAT,
            "at": at.isoformat(),
            "room": room.room,
            "version": source_version(),
            "rows": found.rows,
            "dump_sha256": sha256(work / bundle.DUMP),
            "tables": found.tables,
        }
        path = folder / bundle.name_of(room.room, at, bool(settings.key))
        bundle.pack(work, manifest, paths.LOCAL, path, settings.key)
    return path, found.rows


def verify(dump: Path, expected: Fingerprint) -> None:
    """Read a dump into a scratch cluster. Raises Stop where it holds something else."""
    scratch = cluster(SCRATCH)
    scratch.remove()
    try:
        port, _ = scratch.start()
        different = snapshot.load(scratch, port, dump).differs_from(expected)
    finally:
        scratch.remove()
    if different:
        raise Stop(f"The backup, read back, differs in {', '.join(different[:5])}: not kept.")


def _archived(archive: LogArchive | None, at: datetime) -> bool:
    """A new base for the log archive; one that fails leaves the backup as good as it is."""
    if archive is None:
        return False
    stamp = archive.cluster.home / "last-full-base"
    try:
        last = datetime.fromisoformat(stamp.read_text()) if stamp.exists() else None
        is_full = last is None or at - last >= FULL_BASE_EVERY
        archive.base(is_full)
        if is_full:
            stamp.write_text(at.isoformat())
    except (Stop, ValueError) as error:
        warn(str(error))
        return False
    return True


@contextlib.contextmanager
def _one_at_a_time() -> Iterator[None]:
    with (paths.LOCAL / "backup.lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise Stop("Another backup is under way.") from None
        yield


def sha256(file: Path) -> str:
    """The SHA-256 of a file."""
    with file.open("rb") as content:
        return hashlib.file_digest(content, "sha256").hexdigest()


def note(room: Cluster, port: int, made: Made) -> None:
    """Tell the room's pages; a room whose tables are older than this one says it here alone."""
    command = [str(paths.python()), "-m", "django", "note_backup", json.dumps(asdict(made))]
    env = server.environment(room.room, room.environment(port))
    done = subprocess.run(command, env=env, cwd=paths.ROOT, capture_output=True, text=True)
    if done.returncode:
        warn("The floor page could not be told: " + (done.stderr.strip()[-200:] or "no reason"))


def last_in(settings: BackupSettings, room: str) -> datetime | None:
    """When the newest backup of a room in the folder was made; None where there is none."""
    try:
        found = bundle.bundles(settings.where, room)
    except OSError:
        return None
    return found[-1].at if found else None


def space_needed(room: Cluster) -> int:
    """About what a backup needs while it is made, bytes: the data once, and as much read back."""
    found = room.as_owner("du", "-sb", str(room.data)).stdout.split()
    return 2 * int(found[0]) if found and found[0].isdigit() else 0


def need_space(room: Cluster) -> None:
    """Raises Stop where the disk is too full to make and verify a backup."""
    free, needed = shutil.disk_usage(room.home).free, space_needed(room)
    if free < needed:
        raise Stop(f"The disk is too full: {free // 2**20} MB free, {needed // 2**20} MB needed.")
