"""Where things lie in a checkout."""

import os
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
LOCAL = ROOT / ".local"
# Leads to the environment in use: each lock has its own, so that none changes under an open room.
VENV = LOCAL / "venv"
REQUIREMENTS = ROOT / "requirements"
AUTHORITY = LOCAL / "authority"
LOCK_FILE = LOCAL / "lock"
SECRET_FILE = LOCAL / "secret_key"
# Where an open room's processes find the sources, where that is a copy (pinned.py).
SOURCE_VARIABLE = "TEMPERMARK_SOURCE"
# The environment of packages that a launcher began with, and with it all that it begins.
ENVIRONMENT_VARIABLE = "TEMPERMARK_ENVIRONMENT"


def environments() -> Path:
    """Where the environments of packages lie."""
    return LOCAL / "environments"


def environment() -> Path:
    """The environment of packages that our processes run from: a folder, no link."""
    pinned = Path(os.environ.get(ENVIRONMENT_VARIABLE) or "none")
    is_ours = pinned.parent == environments() and pinned.is_dir()
    return pinned if is_ours else VENV.resolve()


def python() -> Path:
    """Its Python."""
    return environment() / "bin" / "python"


def source() -> Path:
    """The sources that our processes run from."""
    pinned = os.environ.get(SOURCE_VARIABLE)
    return Path(pinned) if pinned and Path(pinned).is_dir() else ROOT / "src"


def static() -> Path:
    """The collected static files of those sources."""
    found = source()
    return LOCAL / "static" if found == ROOT / "src" else found.parent / "static"
