"""Where things lie in a checkout."""

from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
LOCAL = ROOT / ".local"
VENV = LOCAL / "venv"
PYTHON = VENV / "bin" / "python"
REQUIREMENTS = ROOT / "requirements"
STATIC = LOCAL / "static"
AUTHORITY = LOCAL / "authority"
LOCK_FILE = LOCAL / "lock"
SECRET_FILE = LOCAL / "secret_key"
