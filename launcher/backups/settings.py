"""Where a room's backups go, when, and for whom they are encrypted."""

import json
import re
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from pathlib import Path

from launcher import paths
from launcher.say import Stop

DEFAULT_AT = "02:30"
NEVER = "never"
CLOCK = re.compile(r"([01]\d|2[0-3]):[0-5]\d")


@dataclass(frozen=True)
class BackupSettings:
    """``folder`` empty: beside the data. ``key`` is a file of age recipients; empty: none.
    ``at`` is the daily time by this machine's clock, or `never`. ``archive``: the server's log is
    kept too, so that the data can be brought back to any moment.
    """

    folder: str = ""
    key: str = ""
    at: str = DEFAULT_AT
    archive: bool = True

    @property
    def where(self) -> Path:
        """The folder of the backups."""
        return Path(self.folder) if self.folder else paths.LOCAL / "backups"

    def summary(self) -> str:
        """When and where, in a sentence."""
        if self.at == NEVER:
            return "It is not backed up: ./tempermark backup --daily 02:30"
        return f"It is backed up each day at {self.at} to {self.where}"

    def ready(self) -> Path:
        """The folder, there and writable. Raises Stop where a disk is not mounted."""
        if not self.folder:
            self.where.mkdir(parents=True, exist_ok=True, mode=0o700)
        if not self.where.is_dir():
            raise Stop(f"The folder {self.where} is not there. Is the disk mounted?")
        return self.where


def _file() -> Path:
    return paths.LOCAL / "backups.json"


def load() -> BackupSettings:
    """What was chosen; the defaults before anything was."""
    try:
        kept = json.loads(_file().read_text())
        return BackupSettings(**{k: v for k, v in kept.items() if k in asdict(BackupSettings())})
    except (OSError, ValueError):
        return BackupSettings()


def save(settings: BackupSettings) -> None:
    """Keep what was chosen for every later backup."""
    if settings.at != NEVER and not CLOCK.fullmatch(settings.at):
        raise Stop(f"{settings.at} is no time of day like 02:30, and not {NEVER}.")
    if settings.key and not Path(settings.key).is_file():
        raise Stop(f"There is no file of age recipients at {settings.key}.")
    settings.ready()
    paths.LOCAL.mkdir(exist_ok=True)
    _file().write_text(json.dumps(asdict(settings), indent=1))


def due_at(settings: BackupSettings, last: datetime | None, now: datetime) -> datetime | None:
    """When the next backup is due after the last one began; None where none is planned. One that
    was missed while the machine was off is due at once; so is one after a clock that was ahead.
    """
    if settings.at == NEVER:
        return None
    if last is None or last > now:
        return now
    hour, minute = map(int, settings.at.split(":"))
    due = last.replace(hour=hour, minute=minute, second=0, microsecond=0)
    return due if due > last else due + timedelta(days=1)
