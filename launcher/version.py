"""Which version of Tempermark this is: the commit of a checkout, else a digest of its sources."""

import hashlib
import subprocess

from launcher import paths

SHOWN = 12


def source_version() -> str:
    """Twelve signs that differ between versions; with `+` where a checkout was changed by hand."""
    done = subprocess.run(
        ["git", "-C", str(paths.ROOT), "describe", "--always", "--dirty=+", f"--abbrev={SHOWN}"],
        capture_output=True,
        text=True,
    )
    return done.stdout.strip() if done.returncode == 0 else source_digest()[:SHOWN]


def source_digest() -> str:
    """SHA-256 over the application's sources."""
    result = hashlib.sha256()
    for path in sorted((paths.ROOT / "src").rglob("*")):
        if path.is_file() and "__pycache__" not in path.parts:
            result.update(str(path.relative_to(paths.ROOT)).encode() + path.read_bytes())
    return result.hexdigest()
