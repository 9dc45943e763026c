"""`./tempermark backup` and `./tempermark restore`."""

import argparse
import sys
from dataclasses import replace
from datetime import datetime
from pathlib import Path

from launcher import packages
from launcher.backups import make, replaced, restore
from launcher.backups import settings as kept
from launcher.backups.bundle import bundles
from launcher.backups.log_archive import with_archive
from launcher.cluster import Cluster, cluster
from launcher.rooms import alone
from launcher.say import Stop, say

MIB = 2**20


def _parser(word: str) -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog=f"./tempermark {word}", allow_abbrev=False)
    parser.add_argument("--demo", action="store_true", help="the demo's data, not the room's own")
    return parser


def backup(arguments: list[str]) -> int:
    """Make a backup, or choose how they are made."""
    asked = _parser("backup")
    asked.add_argument("--to", metavar="FOLDER", help="where backups go, from now on")
    asked.add_argument("--key", metavar="FILE", help="age recipients; empty for none, from now on")
    asked.add_argument("--daily", metavar="HH:MM", help="when, or “never”, from now on")
    asked.add_argument("--log-archive", choices=("on", "off"), help="keep the database's log too")
    asked.add_argument("--list", action="store_true", help="what there is")
    given = asked.parse_args(arguments)
    settings = _chosen(given)
    if given.list:
        return _list(settings, "demo" if given.demo else "serve")
    packages.prepare()
    room = "demo" if given.demo else "serve"
    database = cluster(room)
    if not database.home.exists():
        raise Stop("There are no data yet: nothing to back up.")
    archive = None
    if room == "serve":
        database, archive = with_archive(database, settings)
    with alone():
        port, ours = database.start()
    try:
        if archive is not None and ours:
            archive.ready(port)
            archive.create()
        made = make.backup(database, port, settings, archive)
    finally:
        if ours:
            database.stop()
    say(
        f"{made.where}: {made.rows:,} rows, {made.bytes / MIB:.1f} MiB, {made.took_s:.0f} s; read "
        f"back and compared."
    )
    return 0


def _chosen(given: argparse.Namespace) -> kept.BackupSettings:
    """The settings, with what the command line changes kept."""
    before = kept.load()
    changes = {
        "folder": str(Path(given.to).resolve()) if given.to else None,
        "key": str(Path(given.key).resolve()) if given.key else given.key,
        "at": given.daily,
        "archive": {"on": True, "off": False}.get(given.log_archive),
    }
    after = replace(before, **{k: v for k, v in changes.items() if v is not None})
    if after != before:
        kept.save(after)
    return after


def _list(settings: kept.BackupSettings, room: str) -> int:
    found = bundles(settings.where, room) if settings.where.is_dir() else []
    for one in found:
        say(f"{one.at:%Y-%m-%d %H:%M}  {one.path.stat().st_size / MIB:8.1f} MiB  {one.path}")
    say(f"{len(found)} backups in {settings.where}; daily at {settings.at}.")
    return 0


def restore_word(arguments: list[str]) -> int:
    """Bring a room's data back."""
    asked = _parser("restore")
    asked.add_argument("file", nargs="?", metavar="FILE", help="a backup")
    asked.add_argument("--identity", default="", metavar="FILE", help="the shop's age identity")
    asked.add_argument("--at", metavar="MOMENT", help="2026-11-28T14:05, by the log archive")
    asked.add_argument("--kept", metavar="NAME", help="what an earlier return replaced")
    asked.add_argument("--list", action="store_true", help="what earlier returns have replaced")
    asked.add_argument("--delete", metavar="NAME", help="delete what an earlier return replaced")
    asked.add_argument("--yes", action="store_true", help="do not ask")
    given = asked.parse_args(arguments)
    if sum(bool(x) for x in (given.file, given.at, given.kept, given.list, given.delete)) != 1:
        raise Stop(
            "Give one of them: a backup's file, --at MOMENT, --kept NAME, --list or --delete NAME."
        )
    database = cluster("demo" if given.demo else "serve")
    if given.list:
        return _list_replaced(database)

    def confirmed(summary: str) -> bool:
        return _confirmed(summary, given.yes)

    if given.delete:
        freed = replaced.delete(database, given.delete, confirmed)
        say(f"Deleted: {given.delete}, {freed / MIB:.1f} MiB.")
        return 0
    packages.prepare()
    with alone():
        if given.file:
            kept_at = restore.from_bundle(database, Path(given.file), given.identity, confirmed)
        elif given.kept:
            kept_at = replaced.swap_in(database, given.kept, confirmed)
        else:
            moment = _moment(given.at)
            database, archive = with_archive(database, kept.load())
            if archive is None:
                raise Stop("There is no log archive: only backups can be brought back.")
            kept_at = restore.to_moment(database, archive, moment, confirmed)
    if kept_at is not None:
        say(f"What was there until now is kept: {kept_at}")
        say(f"Once nobody needs it: ./tempermark restore --delete {kept_at.name}")
    say("Done. Start the room: ./tempermark " + ("demo" if given.demo else "serve"))
    return 0


def _list_replaced(database: Cluster) -> int:
    found = replaced.all_replaced(database)
    for one in found:
        say(f"{one.at:%Y-%m-%d %H:%M}  {one.bytes / MIB:8.1f} MiB  {one.name}")
    say(f"Kept of what earlier returns replaced: {len(found)}.")
    return 0


def _moment(text: str) -> datetime:
    try:
        moment = datetime.fromisoformat(text).astimezone()
    except ValueError:
        raise Stop(f"{text} is no moment like 2026-11-28T14:05.") from None
    if moment > datetime.now().astimezone():
        raise Stop(f"{text} is still to come.")
    return moment


def _confirmed(summary: str, is_sure: bool) -> bool:
    say(summary)
    if is_sure:
        return True
    if not sys.stdin.isatty():
        raise Stop("Nobody is there to confirm it: add --yes.")
    return input("Type yes to go on: ").strip().lower() == "yes"
