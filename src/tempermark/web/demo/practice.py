"""The practice room: a copy of the demo room that a shop's own room opens beside itself.

It is a process, a database and cookies of its own, so that nothing done there can touch the shop's
records; the launcher starts it and throws it away.
"""

import os
import subprocess
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from django.conf import settings

from tempermark.core.errors import InputError
from tempermark.files.document import parse_json

ROOM = "practice"
# Words of a line of the log that is no progress.
STARTING = "Getting it ready"
DISCARDED_WITHIN_S = 60


@dataclass(frozen=True)
class PracticeRoom:
    """Its address once it is open; while it is made ready, the last line of its start."""

    address: str = ""
    progress: str = ""
    failure: str = ""


def is_offered() -> bool:
    """Whether this room can open one: a shop's own, started by the launcher."""
    return bool(settings.LAUNCHER) and not settings.DEMO


def state() -> PracticeRoom:
    """What there is of it now."""
    note = _note()
    if note is not None:
        return PracticeRoom(address=note.get("address", note["url"]))
    lines = [line.strip() for line in _read(_log()).splitlines() if line.strip()]
    if _is_alive(_read(_pid()), b"launcher"):
        return PracticeRoom(progress=lines[-1] if lines else STARTING)
    failed = bool(lines) and _pid().exists()
    return PracticeRoom(failure=lines[-1] if failed else "")


def start(own_address: str) -> None:
    """Open it, where it is not open or being opened; it links back to `own_address`."""
    now = state()
    if now.address or now.progress:
        return
    command = [settings.LAUNCHER, ROOM, "--from", own_address, *_on_the_network()]
    with _log().open("w") as log:
        process = subprocess.Popen(
            command,
            stdin=subprocess.DEVNULL,
            stdout=log,
            stderr=subprocess.STDOUT,
            env=_environment(),
            start_new_session=True,
        )
    _pid().write_text(str(process.pid))


def _on_the_network() -> list[str]:
    """As our own room is: tablets that reach it are to reach the practice room too."""
    if not settings.LAN["room"]:
        return []
    rooms: list[str] = [str(settings.LAN["room"]), *settings.LAN["others"]]
    names = [urlsplit(room).hostname or "" for room in rooms]
    return ["--lan", *(part for name in names if name for part in ("--name", name))]


def discard() -> None:
    """Stop it and delete what was done in it."""
    command = [settings.LAUNCHER, ROOM, "--discard"]
    done = {"env": _environment(), "capture_output": True, "timeout": DISCARDED_WITHIN_S}
    subprocess.run(command, check=True, **done)  # type: ignore[call-overload]
    _pid().unlink(missing_ok=True)
    _log().unlink(missing_ok=True)


def _environment() -> dict[str, str]:
    """Ours without what belongs to our own room."""
    ours = ("TEMPERMARK_", "DJANGO_", "PYTHON")
    return {name: value for name, value in os.environ.items() if not name.startswith(ours)}


def _local() -> Path:
    return Path(settings.LAUNCHER).parent / ".local"


def _log() -> Path:
    return _local() / f"{ROOM}-start.log"


def _pid() -> Path:
    return _local() / f"{ROOM}-start.pid"


def _note() -> Any:
    """What the launcher noted of a running room."""
    try:
        note = parse_json((_local() / f"running-{ROOM}.json").read_text())
    except (OSError, InputError):
        return None
    if not isinstance(note, dict) or not {"pid", "url"} <= note.keys():
        return None
    return note if _is_alive(str(note["pid"]), b"gunicorn") else None


def _is_alive(pid: str, marker: bytes) -> bool:
    """Whether a process still is what it was; one that ended has no command."""
    try:
        return pid.strip().isdigit() and marker in Path(f"/proc/{pid.strip()}/cmdline").read_bytes()
    except OSError:
        return False


def _read(path: Path) -> str:
    try:
        return path.read_text(errors="replace")
    except OSError:
        return ""
