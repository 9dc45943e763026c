"""The virtual environments with the locked packages: one in use, and what open rooms run from."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

from launcher import paths, server, system
from launcher.environment import clean_environment
from launcher.say import Stop, say


def prepare(kind: str = "runtime") -> None:
    """Make the environment hold at least the lock `runtime` or `dev`. One that an open room runs
    from is never changed: another is made beside it, for the next start.
    """
    if not _holds(kind):
        system.need_venv_module()
        _make(_free_home(), kind)
    os.environ[paths.ENVIRONMENT_VARIABLE] = str(paths.environment())


def _make(home: Path, kind: str) -> None:
    python = home / "bin" / "python"
    if not python.exists():
        say("Making a Python environment in .local/environments")
        _run([sys.executable, "-m", "venv", str(home)], "The environment could not be made")
    say(f"Installing the locked packages ({kind}); the first time takes a minute or two")
    pip = [str(python), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
    lock = paths.REQUIREMENTS / f"{kind}.txt"
    _run([*pip, "--require-hashes", "-r", str(lock)], "The packages could not be installed")
    for name in ("runtime", "dev") if kind == "dev" else ("runtime",):
        shutil.copyfile(paths.REQUIREMENTS / f"{name}.txt", home / f"installed-{name}.txt")
    say("Compiling the heat solver")
    warm = [str(python), "-m", "tempermark.core.thermal.warm"]
    _run(warm, "The heat solver could not be compiled")
    _lead_to(home)


def _free_home() -> Path:
    """Where packages may be installed: the environment there is, else one that nobody runs from."""
    home = paths.environment()
    if home.parent == paths.environments() and _works() and not _is_in_use(home):
        return home
    numbers = [int(other.name) for other in paths.environments().glob("[0-9]*")]
    return paths.environments() / f"{max(numbers, default=0) + 1:04d}"


def _lead_to(home: Path) -> None:
    """From now on everything new runs from this environment; those that nobody needs are deleted,
    but for the one before: a command of it may still run.
    """
    os.environ.pop(paths.ENVIRONMENT_VARIABLE, None)
    if paths.VENV.is_dir() and not paths.VENV.is_symlink():
        if _is_in_use(paths.VENV):
            raise Stop("A room of an older version is open: `./tempermark stop` it once.")
        shutil.rmtree(paths.VENV)
    link = paths.VENV.with_name(f".venv.{os.getpid()}")
    link.unlink(missing_ok=True)
    # As seen from beside it, so that a checkout that is moved or copied has its own.
    link.symlink_to(home.relative_to(paths.VENV.parent))
    link.replace(paths.VENV)
    older = sorted(other for other in paths.environments().iterdir() if other.name < home.name)
    for other in older[:-1]:
        if not _is_in_use(other):
            shutil.rmtree(other, ignore_errors=True)


def _is_in_use(home: Path) -> bool:
    """Whether an open room runs from an environment; one that does not say from which may."""
    rooms = [path.stem.removeprefix("running-") for path in paths.LOCAL.glob("running-*.json")]
    notes = [note for note in map(server.noted, rooms) if note is not None]
    return any(note.get("environment", str(home)) == str(home) for note in notes)


def _holds(kind: str) -> bool:
    """Whether the environment was filled from today's lock; dev holds runtime too."""
    return _works() and (_same(kind) or (kind == "runtime" and _same("dev") and _same("runtime")))


def _same(kind: str) -> bool:
    stamp = paths.environment() / f"installed-{kind}.txt"
    lock = paths.REQUIREMENTS / f"{kind}.txt"
    return stamp.exists() and stamp.read_bytes() == lock.read_bytes()


# Of an environment: where it is, which Python made it, where that one looks for packages; a line
# each.
DESCRIBES = """
import sys, sysconfig
print(sys.prefix, sys.base_prefix, sysconfig.get_path("purelib"), sep="\\n")
"""


def _works() -> bool:
    """Whether what starts from the environment finds its packages, and is the Python that the
    launcher runs. One of a moved checkout or a removed Python does not start.
    """
    if not paths.python().exists():
        return False
    command = [str(paths.python()), "-c", DESCRIBES]
    summary = subprocess.run(command, capture_output=True, text=True)
    if summary.returncode:
        return False
    prefix, base, packages = (Path(line).resolve() for line in summary.stdout.splitlines())
    is_here = prefix == paths.environment().resolve()
    return is_here and base == Path(sys.base_prefix).resolve() and packages.is_dir()


def _run(command: list[str], failure: str) -> None:
    done = subprocess.run(command, capture_output=True, text=True, env=clean_environment())
    if done.returncode:
        lines = [line for line in done.stderr.splitlines() if line.strip()]
        reason = "\n  ".join(lines[-4:])
        raise Stop(f"{failure}. Is there a network for the first start?\n  {reason}")
