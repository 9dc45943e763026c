"""Debian's packages: found, or installed when that is allowed."""

import importlib.util
import os
import shutil
import subprocess
from pathlib import Path

from launcher import paths
from launcher.say import Stop, say

POSTGRES_ROOT = Path("/usr/lib/postgresql")


def postgres_bin() -> Path | None:
    """The newest server's programs, or None."""
    found = []
    if shutil.which("pg_config"):
        summary = subprocess.run(["pg_config", "--bindir"], capture_output=True, text=True)
        found.append(Path(summary.stdout.strip()))
    versions = POSTGRES_ROOT.glob("*/bin") if POSTGRES_ROOT.exists() else []
    found += sorted(versions, key=_version, reverse=True)
    return next((p for p in found if (p / "initdb").exists() and (p / "postgres").exists()), None)


def _version(path: Path) -> int:
    name = path.parent.name
    return int(name) if name.isdigit() else 0


def need_postgres() -> Path:
    """The server's programs, installed if need be."""
    found = postgres_bin()
    if found is None:
        _keep_debian_cluster_off()
        install(["postgresql"], "the PostgreSQL server")
        found = postgres_bin()
    if found is None:
        raise Stop("PostgreSQL's server is not to be found. Install: postgresql")
    return found


def _keep_debian_cluster_off() -> None:
    """Ours is private: Debian's own cluster need not be made or started."""
    if os.geteuid() == 0:
        folder = Path("/etc/postgresql-common")
        folder.mkdir(parents=True, exist_ok=True)
        config = folder / "createcluster.conf"
        if not config.exists():
            config.write_text("create_main_cluster = false\nstart_conf = 'manual'\n")


# Debian's package → the program that it brings.
BROWSER = {"chromium": "chromium", "chromium-driver": "chromedriver"}
FOR_TESTS = {
    **BROWSER,
    "pgbackrest": "pgbackrest",
    "age": "age",
}
# A browser without a window's parts takes a quarter less of the cores. The tests go without it, so
# that it is asked for once in a checkout.
QUICKER = "chromium-headless-shell"


def need_browser() -> None:
    """A browser with its driver."""
    _need(BROWSER, "a browser with its driver")


def _need(tools: dict[str, str], what: str) -> None:
    """Install the packages of programs that are missing."""
    missing = [package for package, program in tools.items() if not shutil.which(program)]
    if missing:
        install(missing, what)


def need_test_tools() -> None:
    """The browser of the tests with its driver, and what keeps logs and encrypts backups."""
    _need(FOR_TESTS, "the tools of the tests")
    tried_before = paths.LOCAL / "quicker-browser-tried"
    if not shutil.which(QUICKER) and not tried_before.exists():
        tried_before.touch()
        try:
            install([QUICKER], "a quicker browser for the tests")
        except Stop:
            say(f"The tests go without {QUICKER}: they take longer.")


def need_venv_module() -> None:
    """Debian ships Python without its venv module."""
    if any(importlib.util.find_spec(name) is None for name in ("ensurepip", "venv")):
        install(["python3-venv"], "Python's venv module")


def install(packages: list[str], what: str) -> None:
    """Install Debian packages as root or by passwordless sudo; else say which."""
    line = " ".join(packages)
    before = _root_prefix()
    if before is None or not shutil.which("apt-get"):
        raise Stop(f"Missing: {what}. Install it, then start again: apt-get install {line}")
    say(f"Installing {what} ({line})")
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    for command in (["apt-get", "update", "-qq"], ["apt-get", "install", "-y", "-qq", *packages]):
        done = subprocess.run(
            [*before, *command],
            env=environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            text=True,
        )
        if done.returncode and command[1] == "install":
            tail = done.stderr.strip().splitlines()[-1:] or ["no reason given"]
            raise Stop(f"{what} could not be installed ({tail[0]}). Needed: apt-get install {line}")


def _root_prefix() -> list[str] | None:
    if os.geteuid() == 0:
        return []
    if not shutil.which("sudo"):
        return None
    allowed = subprocess.run(["sudo", "-n", "true"], capture_output=True).returncode == 0
    return ["sudo", "-n"] if allowed else None


def lives(pid: int) -> bool:
    """Whether the process is there; one that ended and waits to be fetched has no command."""
    try:
        return bool(Path(f"/proc/{pid}/cmdline").read_bytes())
    except OSError:
        return False
