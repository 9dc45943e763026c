"""Where things lie in a checkout."""

import os
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
LOCAL = ROOT / ".local"
VENV = LOCAL / "venv"
PYTHON = VENV / "bin" / "python"
REQUIREMENTS = ROOT / "requirements"
AUTHORITY = LOCAL / "authority"
LOCK_FILE = LOCAL / "lock"
SECRET_FILE = LOCAL / "secret_key"
# Where an open room's processes find the sources, where that is a copy (pinned.py).
SOURCE_VARIABLE = "TEMPERMARK_SOURCE"


def source() -> Path:
    """The sources that our processes run from."""
    pinned = os.environ.get(SOURCE_VARIABLE)
    return Path(pinned) if pinned and Path(pinned).is_dir() else ROOT / "src"


def static() -> Path:
    """The collected static files of those sources."""
    found = source()
    return LOCAL / "static" if found == ROOT / "src" else found.parent / "static"
