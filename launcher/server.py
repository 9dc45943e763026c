"""The web server of a room: gunicorn, started, watched and stopped."""

import contextlib
import ctypes
import json
import os
import secrets
import signal
import ssl
import subprocess
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import TYPE_CHECKING, Any

from launcher import paths, system
from launcher.environment import clean_environment
from launcher.say import Stop

if TYPE_CHECKING:
    from launcher.lan import Lan

FIRST_PORT = 8640
# One more than cores, for each waits for the database much of its time; each has its own memory.
WORKERS = min((os.cpu_count() or 2) + 1, 5)
# What was computed is given back at once: large arrays come from the kernel, not from a heap that
# small ones keep from shrinking, and threads share two heaps. A map's draws and nodes, up to 2 MB,
# come from a heap: its page waited a third of its time for the kernel to clear them.
MEMORY = {
    "MALLOC_ARENA_MAX": "2",
    "MALLOC_MMAP_THRESHOLD_": str(3 * 2**20),
    "MALLOC_TRIM_THRESHOLD_": str(8 * 2**20),
}
# A busy machine takes half a minute and more to load all workers.
STARTS_WITHIN_S = 120.0
ANSWERS_WITHIN_S = 10.0
STOPS_WITHIN_S = 10.0
_PR_SET_PDEATHSIG = 1


def state_file(room: str) -> Path:
    """Where a running room notes its process and address."""
    return paths.LOCAL / f"running-{room}.json"


def noted(room: str) -> dict[str, Any] | None:
    """The room's note if its server is alive, whether it answers or not."""
    try:
        note = json.loads(state_file(room).read_text())
        command = Path(f"/proc/{note['pid']}/cmdline").read_bytes()
    except (OSError, ValueError, KeyError):
        return None
    return note if b"gunicorn" in command else None


def running(room: str) -> dict[str, Any] | None:
    """The room's note if its server is alive and answers, else None."""
    note = noted(room)
    return note if note is not None and answers(note["url"]) else None


def answers(url: str) -> bool:
    """Whether something of ours answers there; over HTTPS by the room's own authority."""
    try:
        # As a proxy with HTTPS in front would ask, which is what TEMPERMARK_HTTPS expects.
        asked = urllib.request.Request(f"{url}/sign-in/", headers={"X-Forwarded-Proto": "https"})
        trust = None
        if url.startswith("https:"):
            trust = ssl.create_default_context(cafile=paths.AUTHORITY / "authority.crt")
        with urllib.request.urlopen(asked, timeout=ANSWERS_WITHIN_S, context=trust) as page:
            return bool(page.status == 200)
    except (urllib.error.URLError, OSError, ValueError):
        return False


def secret_key() -> str:
    """Django's secret key, made once per checkout."""
    if not paths.SECRET_FILE.exists():
        paths.SECRET_FILE.touch(mode=0o600)
        paths.SECRET_FILE.write_text(secrets.token_urlsafe(50))
    return paths.SECRET_FILE.read_text().strip()


def environment(room: str, database: dict[str, str]) -> dict[str, str]:
    """The environment of the room's Django."""
    settings = "production" if room == "serve" else "demo"
    return clean_environment(
        DJANGO_SETTINGS_MODULE=f"tempermark.web.settings.{settings}",
        TEMPERMARK_ROOM=room,
        TEMPERMARK_LAUNCHER=str(paths.ROOT / "tempermark"),
        TEMPERMARK_SECRET_KEY=secret_key(),
        TEMPERMARK_STATIC_ROOT=str(paths.static()),
        OPENBLAS_NUM_THREADS="1",
        **MEMORY,
        **database,
    )


def start(
    room: str, port: int, env: dict[str, str], lan: "Lan | None" = None
) -> subprocess.Popen[bytes]:
    """Start the server and wait until it answers; on loopback alone, or over HTTPS on the shop's
    network.
    """
    log = paths.LOCAL / f"web-{room}.log"
    command = [str(paths.python()), "-m", "gunicorn", "tempermark.web.asgi:application"]
    command += ["--config", "python:tempermark.web.gunicorn_conf", "--workers", str(WORKERS)]
    command += ["--worker-class", "tempermark.web.gunicorn_conf.Worker"]
    host = "127.0.0.1" if lan is None else "0.0.0.0"
    command += ["--bind", f"{host}:{port}", "--graceful-timeout", "2", "--timeout", "60"]
    if lan is not None:
        command += ["--certfile", lan.certificate, "--keyfile", lan.key]
    command += ["--no-control-socket"] if _has_control_socket() else []
    process = begun(command, env | {"TEMPERMARK_WEB": "1"}, log)
    url = f"http{'' if lan is None else 's'}://127.0.0.1:{port}"
    deadline = time.monotonic() + STARTS_WITHIN_S
    while not answers(url):
        if process.poll() is not None or time.monotonic() > deadline:
            stop(process)
            raise Stop(f"The web server does not start; see {log}")
        time.sleep(0.1)
    state_file(room).write_text(
        json.dumps(
            {
                "pid": process.pid,
                "url": url,
                "address": url if lan is None else lan.room(port).rstrip("/"),
                "launcher": os.getpid(),
                "version": paths.source().parent.name,
                "environment": str(paths.environment()),
            }
        )
    )
    return process


def start_worker(room: str, env: dict[str, str]) -> subprocess.Popen[bytes]:
    """Start what works in the background: plans and counts, one at a time."""
    command = [str(paths.python()), "-m", "django", "procrastinate", "worker"]
    command += ["--queues", "plans,counts"]
    return begun(command, env, paths.LOCAL / f"worker-{room}.log")


def begun(command: list[str], env: dict[str, str], log: Path) -> subprocess.Popen[bytes]:
    """A process of the room, in a group of its own, that ends with the launcher."""
    with log.open("a") as file:
        return subprocess.Popen(
            command,
            env=env,
            cwd=paths.ROOT,
            stdout=file,
            stderr=file,
            process_group=0,
            preexec_fn=_end_with_us,  # noqa: PLW1509  (the launcher has one thread)
        )


def _has_control_socket() -> bool:
    summary = subprocess.run(
        [str(paths.python()), "-m", "gunicorn", "--help"], capture_output=True, text=True
    )
    return "--no-control-socket" in summary.stdout


def _end_with_us() -> None:
    """Ask the kernel to end the server if the launcher is killed outright."""
    ctypes.CDLL(None, use_errno=True).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


def stop(process: subprocess.Popen[bytes]) -> None:
    """End a process of ours and whatever it has begun, gently first."""
    if process.poll() is None:
        process.terminate()
        with contextlib.suppress(subprocess.TimeoutExpired):
            process.wait(STOPS_WITHIN_S)
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.killpg(process.pid, signal.SIGKILL)
    process.wait()


def stop_noted(room: str) -> bool:
    """End the room's server by its note; whether one was running."""
    note = noted(room)
    state_file(room).unlink(missing_ok=True)
    if note is None:
        return False
    _end(note.get("launcher", note["pid"]), b"launcher") or _end(note["pid"], b"gunicorn")
    return True


def _end(pid: int, marker: bytes) -> bool:
    """Terminate a process that is still what it was, and wait for its end."""
    command = Path(f"/proc/{pid}/cmdline")
    try:
        if marker not in command.read_bytes():
            return False
        os.kill(pid, signal.SIGTERM)
    except OSError:
        return False
    deadline = time.monotonic() + STOPS_WITHIN_S * 2
    while system.lives(pid) and time.monotonic() < deadline:
        time.sleep(0.05)
    return True
