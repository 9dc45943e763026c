"""What one of a room's web workers has computed is there for the others, while the room is open.

Each reading of a survey may come to another worker, and what is remembered takes each of them a
tenth of a second (docs/decisions/0045-what-is-remembered-is-shared.md). The folder is private to
the workers' master, which makes it and deletes it (web/gunicorn_conf.py); without one, as in tests
and commands, nothing is shared.
"""

import logging
import os
from collections.abc import Mapping
from pathlib import Path
from uuid import uuid4
from zipfile import BadZipFile

import numpy as np

FOLDER = "TEMPERMARK_SHARED"
# Some six megabytes each: those of the surveys that are being read.
MOST_FILES = 12
ENDING = ".npz"

log = logging.getLogger(__name__)


def _folder() -> Path | None:
    named = os.environ.get(FOLDER)
    return Path(named) if named else None


def shared(name: str) -> Mapping[str, np.ndarray] | None:
    """The arrays that a worker has put under a name; None without any that can be read."""
    folder = _folder()
    if folder is None:
        return None
    try:
        with np.load(folder / f"{name}{ENDING}", allow_pickle=False) as file:
            return dict(file)
    except (OSError, EOFError, ValueError, BadZipFile):
        return None


def share(name: str, arrays: Mapping[str, np.ndarray]) -> None:
    """Put arrays under a name for the other workers; what cannot be written is not shared."""
    folder = _folder()
    if folder is None:
        return
    # No other thread of this worker or another one writes to it.
    part = folder / f"{name}.{uuid4()}.part"
    try:
        with part.open("wb") as file:
            np.savez(file, allow_pickle=False, **arrays)
        part.replace(folder / f"{name}{ENDING}")
        _forget_oldest(folder)
    except OSError as error:
        log.warning("What is remembered of a press is not shared: %s", error)
        # A disk that is full is not kept full.
        part.unlink(missing_ok=True)


def _forget_oldest(folder: Path) -> None:
    files = sorted(folder.iterdir(), key=lambda one: one.stat().st_mtime, reverse=True)
    for file in files[MOST_FILES:]:
        file.unlink(missing_ok=True)
