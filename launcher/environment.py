"""The virtual environment with the locked packages."""

import os
import shutil
import subprocess
import sys

from launcher import paths, system
from launcher.say import Stop, say


def prepare(kind: str = "runtime") -> None:
    """Make the environment hold at least the lock `runtime` or `dev`."""
    if _holds(kind):
        return
    system.need_venv_module()
    if not _works():
        shutil.rmtree(paths.VENV, ignore_errors=True)
        say("Making a Python environment in .local/venv")
        _run([sys.executable, "-m", "venv", str(paths.VENV)], "The environment could not be made")
    say(f"Installing the locked packages ({kind}); the first time takes a minute or two")
    lock = paths.REQUIREMENTS / f"{kind}.txt"
    pip = [str(paths.PYTHON), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
    _run([*pip, "--require-hashes", "-r", str(lock)], "The packages could not be installed")
    _note(kind)
    say("Compiling the heat solver")
    warm = [str(paths.PYTHON), "-m", "tempermark.core.thermal.warm"]
    _run(warm, "The heat solver could not be compiled")


def _holds(kind: str) -> bool:
    """Whether the environment was filled from today's lock; dev holds runtime too."""
    return _works() and (_same(kind) or (kind == "runtime" and _same("dev") and _same("runtime")))


def _same(kind: str) -> bool:
    stamp = paths.VENV / f"installed-{kind}.txt"
    lock = paths.REQUIREMENTS / f"{kind}.txt"
    return stamp.exists() and stamp.read_bytes() == lock.read_bytes()


def _note(kind: str) -> None:
    for name in ("runtime", "dev") if kind == "dev" else ("runtime",):
        shutil.copyfile(paths.REQUIREMENTS / f"{name}.txt", paths.VENV / f"installed-{name}.txt")


def _works() -> bool:
    """A moved checkout or a removed Python leaves an environment that does not start."""
    if not paths.PYTHON.exists():
        return False
    summary = subprocess.run(
        [str(paths.PYTHON), "-c", "import sys; print(sys.prefix)"], capture_output=True, text=True
    )
    return summary.returncode == 0 and os.path.realpath(summary.stdout.strip()) == os.path.realpath(
        paths.VENV
    )


def _run(command: list[str], failure: str) -> None:
    done = subprocess.run(command, capture_output=True, text=True, env=clean_environment())
    if done.returncode:
        lines = [line for line in done.stderr.splitlines() if line.strip()]
        reason = "\n  ".join(lines[-4:])
        raise Stop(f"{failure}. Is there a network for the first start?\n  {reason}")


def clean_environment(**more: str) -> dict[str, str]:
    """The environment for our Python: byte code may be written, nothing foreign on the path."""
    dropped = ("PYTHONDONTWRITEBYTECODE", "PYTHONHOME", "PYTHONPATH", "VIRTUAL_ENV")
    kept = {k: v for k, v in os.environ.items() if k not in dropped}
    return {**kept, "PYTHONPATH": str(paths.source()), **more}
