"""A shop's room runs from a copy of the sources: what is checked out waits for the next start."""

import os
import shutil

from launcher import paths, server
from launcher.version import source_digest

SHOWN = 16


def pin() -> None:
    """Let everything that this launcher begins run from a copy of today's sources. Copies that no
    open room runs from are deleted.
    """
    name = source_digest()[:SHOWN]
    versions = paths.LOCAL / "versions"
    home = versions / name
    if not home.exists():
        half = versions / f".{name}.{os.getpid()}"
        # With the times of the files: what was compiled from them stays of use.
        shutil.copytree(paths.ROOT / "src", half / "src")
        half.rename(home)
    os.environ[paths.SOURCE_VARIABLE] = str(home / "src")
    for other in versions.iterdir():
        if other.name != name and not _is_in_use(other.name):
            shutil.rmtree(other, ignore_errors=True)


def _is_in_use(name: str) -> bool:
    notes = (server.noted(room) for room in ("serve", "practice"))
    return any(note is not None and note.get("version") == name for note in notes)
