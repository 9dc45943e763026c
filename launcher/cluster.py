"""A private PostgreSQL cluster on loopback, one per room (demo, serve, test).

As root the server runs as `postgres`, otherwise as the caller. The cluster lies in
`.local/`, or in /var/tmp where the postgres user cannot enter the checkout.
"""

import hashlib
import os
import secrets
import shutil
import socket
import subprocess
import time
from dataclasses import dataclass
from pathlib import Path

from launcher import paths, system
from launcher.say import Stop, say

FIRST_PORT = 54620
USER = "tempermark"
LONGEST_SOCKET_PATH = 90
# After a hard kill the dead server may look alive for about two seconds.
GRACE_S = 5.0
# Rooms whose data nobody misses.
THROWN_AWAY = ("test", "scratch")
# One that was killed, or is brought back to a moment, goes through its log first.
STARTS_WITHIN_S = 300
UNSAFE_BUT_QUICK = "-c fsync=off -c synchronous_commit=off -c full_page_writes=off"


@dataclass
class Cluster:
    """One room's cluster."""

    room: str
    home: Path
    bin: Path
    # More of the server's settings: the log archive's, say.
    options: tuple[str, ...] = ()

    @property
    def data(self) -> Path:
        """The data directory."""
        return self.home / "data"

    @property
    def run(self) -> Path:
        """Socket and log."""
        return self.home / "run"

    @property
    def sockets(self) -> Path:
        """A socket directory with a path short enough."""
        if len(str(self.run)) <= LONGEST_SOCKET_PATH:
            return self.run
        return Path("/tmp") / f"tempermark-{_digest(self.home)}"

    @property
    def password(self) -> str:
        """The database password, made with the cluster and kept beside it."""
        return (self.home / "password").read_text().strip()

    def environment(self, port: int) -> dict[str, str]:
        """What Django's settings read."""
        return {
            "TEMPERMARK_DB_HOST": "127.0.0.1",
            "TEMPERMARK_DB_PORT": str(port),
            "TEMPERMARK_DB_USER": USER,
            "TEMPERMARK_DB_NAME": self.database,
            "TEMPERMARK_DB_PASSWORD": self.password,
        }

    def running_port(self) -> int | None:
        """The port of the running server, or None."""
        status = self._server("pg_ctl", "-D", str(self.data), "status")
        if status.returncode:
            return None
        lines = self._read(self.data / "postmaster.pid").splitlines()
        if not lines or not lines[0].isdigit() or not system.lives(int(lines[0])):
            # Killed, and not fetched yet: its number is still taken, its port may be another's.
            return None
        return int(lines[3]) if len(lines) > 3 and lines[3].strip().isdigit() else None

    def start(self) -> tuple[int, bool]:
        """Make and start the cluster; its port, and whether this call started it."""
        self._make()
        port = self._live_port()
        if port is not None:
            return port, False
        port = self._start_on_free_port()
        self._make_database(port)
        return port, True

    def _live_port(self) -> int | None:
        """The port of a server that answers; waits a moment for one that is about to."""
        deadline = time.monotonic() + GRACE_S
        while True:
            port = self.running_port()
            if port is None or not port_free(port):
                return port
            if time.monotonic() > deadline:
                return None
            time.sleep(0.2)

    def stop(self) -> bool:
        """Stop the server; whether it was running."""
        if not self.data.exists() or self.running_port() is None:
            return False
        self._server("pg_ctl", "-D", str(self.data), "-m", "fast", "-w", "-t", "30", "stop")
        return True

    def remove(self) -> None:
        """Stop it and delete its data."""
        self.stop()
        self._server("rm", "-rf", str(self.data), str(self.run))
        shutil.rmtree(self.home, ignore_errors=True)

    def _make(self) -> None:
        if self._exists(self.data / "PG_VERSION"):
            self._own_folder(self.run)
            return
        if self.room not in THROWN_AWAY:
            say(f"Making a private database in {self.home}")
        self._server("rm", "-rf", str(self.data))
        self.home.mkdir(parents=True, exist_ok=True)
        self._own_folder(self.run)
        self._own_folder(self.data)
        secret = self.home / "password"
        secret.touch(mode=0o600)
        secret.write_text(secrets.token_urlsafe(24))
        handed = self.run / "first-password"
        handed.write_text(self.password)
        _give(handed)
        handed.chmod(0o600)
        options = ["--auth=scram-sha-256", f"--pwfile={handed}", "--encoding=UTF8"]
        options += ["--locale=C.UTF-8", "--data-checksums", "-U", USER]
        result = self._server("initdb", "-D", str(self.data), *options)
        handed.unlink()
        if result.returncode:
            raise Stop(f"The database could not be made: {result.stderr.strip()[-400:]}")

    def make_data_folder(self) -> None:
        """An empty data folder of the server's user, for what fills it: a log archive, say."""
        self._own_folder(self.data)

    def _own_folder(self, folder: Path) -> None:
        if not folder.exists():
            folder.mkdir(parents=True)
            _give(folder)
            folder.chmod(0o700)

    def _start_on_free_port(self) -> int:
        if self.sockets != self.run:
            self._own_folder(self.sockets)
        saved = self.home / "port"
        port = int(saved.read_text()) if saved.exists() else FIRST_PORT
        deadline = time.monotonic() + GRACE_S
        while True:
            port = free_port(port, "The database's port")
            started = self._pg_start(port)
            if started.returncode == 0:
                saved.write_text(str(port))
                return port
            log = self._read(self.run / "log")[-1500:]
            if "Address already in use" in log and not port_free(port):
                port += 1
            elif time.monotonic() > deadline:
                raise Stop(f"The database does not start. Its log says:\n{log[-600:]}")
            else:
                self._drop_foreign_pid_file()
                time.sleep(0.5)

    def _pg_start(self, port: int) -> subprocess.CompletedProcess[str]:
        quick = UNSAFE_BUT_QUICK if self.room in THROWN_AWAY else ""
        options = (
            f"-p {port} -c listen_addresses=127.0.0.1 "
            f"-c unix_socket_directories='{self.sockets}' -c max_connections=100 -c jit=off "
            f"{quick} " + " ".join(f"-c {option}" for option in self.options)
        )
        log = str(self.run / "log")
        return self._server(
            "pg_ctl",
            "-D",
            str(self.data),
            "-l",
            log,
            "-w",
            "-t",
            str(STARTS_WITHIN_S),
            "-s",
            "-o",
            options,
            "start",
        )

    def _drop_foreign_pid_file(self) -> None:
        """A stale pid file whose number now belongs to another program blocks the start."""
        lines = self._read(self.data / "postmaster.pid").splitlines()
        if not lines or not lines[0].strip().isdigit():
            return
        command = Path(f"/proc/{lines[0].strip()}/cmdline")
        alive = command.read_bytes() if command.exists() else b""
        if b"postgres" not in alive:
            self._server("rm", "-f", str(self.data / "postmaster.pid"))

    @property
    def database(self) -> str:
        """The name of the room's database."""
        return f"tempermark_{self.room}"

    def client(self, program: str, port: int, *arguments: str, database: str = "") -> list[str]:
        """The command of one of PostgreSQL's own clients; its password is in `secrets()`."""
        where = ["-h", "127.0.0.1", "-p", str(port), "-U", USER, "-d", database or self.database]
        return [str(self.bin / program), *where, *arguments]

    def secrets(self) -> dict[str, str]:
        """The environment of such a client."""
        return {**os.environ, "PGPASSWORD": self.password, "PGTZ": "UTC"}

    def _make_database(self, port: int) -> None:
        psql = self.client("psql", port, "-tA", database="postgres")
        there = subprocess.run(
            [*psql, "-c", f"SELECT 1 FROM pg_database WHERE datname = '{self.database}'"],
            capture_output=True,
            text=True,
            env=self.secrets(),
        )
        if there.stdout.strip() != "1":
            subprocess.run(
                [*psql, "-c", f"CREATE DATABASE {self.database}"],
                capture_output=True,
                env=self.secrets(),
                check=True,
            )

    def as_owner(self, *command: str) -> subprocess.CompletedProcess[str]:
        """Run a program as the server's user."""
        before = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []
        return subprocess.run(
            [*before, *command], capture_output=True, text=True, cwd="/", env=self._environment()
        )

    def _environment(self) -> dict[str, str]:
        known = (self.home / "password").exists()
        return self.secrets() if known else dict(os.environ)

    def _server(self, program: str, *arguments: str) -> subprocess.CompletedProcess[str]:
        """Run one of the server's programs as its owner."""
        path = self.bin / program
        return self.as_owner(str(path) if path.exists() else program, *arguments)

    def _exists(self, path: Path) -> bool:
        return bool(self._server("test", "-e", str(path)).returncode == 0)

    def _read(self, path: Path) -> str:
        return str(self._server("cat", str(path)).stdout)


def cluster(room: str, options: tuple[str, ...] = ()) -> Cluster:
    """The cluster of a room, wherever its server's user can work."""
    programs = system.need_postgres()  # first: installing it makes the postgres user
    return Cluster(room, _home(room), programs, options)


def _home(room: str) -> Path:
    home = paths.LOCAL / f"database-{room}"
    if os.geteuid() != 0 or _postgres_may_enter(paths.LOCAL):
        return home
    return Path("/var/tmp") / f"tempermark-{_digest(paths.ROOT)}" / room


def _postgres_may_enter(folder: Path) -> bool:
    folder.mkdir(parents=True, exist_ok=True)
    query = subprocess.run(
        ["runuser", "-u", "postgres", "--", "test", "-x", str(folder)], capture_output=True, cwd="/"
    )
    return query.returncode == 0


def _digest(path: Path) -> str:
    return hashlib.sha256(str(path).encode()).hexdigest()[:10]


def _give(path: Path) -> None:
    """Make the server's user the owner."""
    if os.geteuid() == 0:
        shutil.chown(path, "postgres")


def port_free(port: int) -> bool:
    """Whether nobody listens on a port of loopback."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def free_port(first: int, what: str) -> int:
    """The first port of loopback nobody listens on, from `first` up; says what it skips."""
    for port in range(first, first + 200):
        if port_free(port):
            return port
        say(f"{what} {port} is in use; taking the next.")
    raise Stop(f"No free port from {first} to {first + 199}.")
