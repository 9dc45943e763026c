"""What a room needs before it is opened: the checkout to itself, and its data prepared."""

import contextlib
import fcntl
import subprocess
from collections.abc import Iterator

from launcher import paths
from launcher.say import Stop, say


@contextlib.contextmanager
def alone() -> Iterator[None]:
    """Hold the checkout's lock: two starts at once take turns."""
    paths.LOCAL.mkdir(exist_ok=True)
    with paths.LOCK_FILE.open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            say("Another start is under way; waiting for it.")
            fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def prepare_data(room: str, env: dict[str, str], reset: bool = False) -> None:
    """Bring a room's tables and files up to date, the demo's data too. Raises Stop."""
    command = [str(paths.python()), "-m", "django", "prepare_room"]
    command += [] if room == "serve" else ["--demo"]
    command += ["--reset"] if reset else []
    done = subprocess.run(command, env=env, cwd=paths.ROOT)
    if done.returncode:
        raise Stop("The database could not be prepared; see the lines above.")


def manage(env: dict[str, str], *words: str) -> subprocess.CompletedProcess[str]:
    """Run a management command of a room."""
    command = [str(paths.python()), "-m", "django", *words]
    return subprocess.run(command, env=env, cwd=paths.ROOT, capture_output=True, text=True)
