"""A room brought back: from a backup, or to a moment. What is replaced is kept (replaced.py)."""

import secrets
import shutil
import tempfile
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Any

from launcher import paths, rooms, server
from launcher.backups import bundle, snapshot
from launcher.backups.fingerprint import Fingerprint
from launcher.backups.log_archive import LogArchive, wait_until_promoted
from launcher.backups.make import sha256
from launcher.backups.replaced import move_aside, must_not_run, name_aside
from launcher.cluster import Cluster
from launcher.say import Stop, warn


def from_bundle(
    room: Cluster, path: Path, identity: str, confirmed: Callable[[str], bool]
) -> Path | None:
    """Replace a room's data by a backup's, once somebody has confirmed it; where what was there is
    kept, None where nothing was. Raises Stop with nothing changed.
    """
    if not path.is_file():
        raise Stop(f"There is no file {path}.")
    must_not_run(room)
    paths.LOCAL.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="restore-", dir=paths.LOCAL) as name:
        work = Path(name)
        manifest = bundle.unpack(path, work, identity)
        if sha256(work / bundle.DUMP) != manifest["dump_sha256"]:
            raise Stop(f"{path.name} is damaged: its dump is not the one it was made with.")
        if not confirmed(_summary(room, manifest)):
            raise Stop("Nothing was changed.")
        bundle.bring_keys_back(work, paths.LOCAL)
        expected = Fingerprint(manifest["tables"])
        return _replaced(room, lambda port: _load(room, port, work / bundle.DUMP, expected))


def _load(room: Cluster, port: int, dump: Path, expected: Fingerprint) -> None:
    different = snapshot.load(room, port, dump).differs_from(expected)
    if different:
        raise Stop(f"What came back differs in {', '.join(different[:5])}.")


def _summary(room: Cluster, manifest: dict[str, Any]) -> str:
    at = manifest["at"][:16].replace("T", " ")
    return (
        f"The backup of {at} holds {manifest['rows']:,} rows, made by version "
        f"{manifest['version']}. It replaces the data of {room.room}, which are kept beside it."
    )


def _replaced(room: Cluster, fill: Callable[[int], None]) -> Path | None:
    """A fresh cluster, filled; the old one moved aside, and back where anything fails."""
    kept = move_aside(room)
    try:
        port, _ = room.start()
        fill(port)
        _prepare(room, port)
    except BaseException:
        room.remove()
        if kept is not None:
            kept.rename(room.home)
            warn("The data are as they were.")
        raise
    finally:
        room.stop()
    return kept


def to_moment(
    room: Cluster, archive: LogArchive, moment: datetime, confirmed: Callable[[str], bool]
) -> Path:
    """Bring a room's data back to a moment by the log archive; where those until now are kept.
    Raises Stop with nothing changed, for a moment that the archive does not reach say.
    """
    must_not_run(room)
    if not room.data.parent.exists():
        raise Stop("There are no data yet.")
    said = f"The data of {room.room} go back to {moment:%Y-%m-%d %H:%M:%S}; those of now are kept."
    if not confirmed(said):
        raise Stop("Nothing was changed.")
    port, _ = room.start()
    archive.ready(port)
    room.stop()
    aside = name_aside(room.data)
    room.data.rename(aside)
    try:
        room.make_data_folder()
        archive.back_to(moment)
        port, _ = room.start()
        wait_until_promoted(room, port)
        _prepare(room, port)
    except BaseException:
        room.stop()
        _put_back(room, aside)
        raise
    finally:
        room.stop()
    return aside


def _put_back(room: Cluster, aside: Path) -> None:
    """What was moved aside takes its place again; what failed to come back is thrown away."""
    failed = room.data.with_name(f"data-failed-{secrets.token_hex(4)}")
    if room.data.exists():
        room.data.rename(failed)
    aside.rename(room.data)
    room.as_owner("rm", "-rf", str(failed))
    shutil.rmtree(failed, ignore_errors=True)
    warn("The data are as they were.")


def _prepare(room: Cluster, port: int) -> None:
    """Bring what came back up to this version, and say so in the audit record."""
    env = server.environment(room.room, room.environment(port))
    rooms.prepare_data(room.room, env)
    done = rooms.manage(env, "note_return")
    if done.returncode:
        raise Stop(f"The return could not be recorded: {done.stderr.strip()[-300:]}")
