"""PostgreSQL's own log, kept by pgBackRest (from Debian's packages), so that a room can be brought
back to any moment.
"""

import os
import secrets
import shutil
import subprocess
import time
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

from launcher import paths, system
from launcher.backups.settings import BackupSettings
from launcher.cluster import USER, Cluster
from launcher.say import Stop, warn

PROGRAM = "pgbackrest"
STANZA = "room"
# In a room's folder: which archive is its own.
ARCHIVE_ID = "archive-id"
# A quiet room hands its log on after so long: what a lost disk costs at most.
HANDED_ON_AFTER_S = 600
# Where the archive's disk is gone, the log waits up to this; then it has a gap, and says so.
MOST_WAITING = "1GiB"
FULL_KEPT = 2
PROMOTED_WITHIN_S = 600
CONFIG = """[global]
repo1-path={repo}
repo1-retention-full={full}
{cipher}compress-type=zst
start-fast=y
archive-push-queue-max={waiting}
log-path={run}
lock-path={run}/lock
log-level-console=warn
log-level-file=warn
[{stanza}]
pg1-path={data}
pg1-port={port}
pg1-socket-path={sockets}
pg1-user={user}
pg1-database=postgres
"""


@dataclass(frozen=True)
class LogArchive:
    """The archive of a room's log in a folder of the server's user."""

    cluster: Cluster
    repo: Path
    passphrase: str

    @property
    def config(self) -> Path:
        """pgBackRest's own file."""
        return self.cluster.home / "run" / "pgbackrest.conf"

    def server_options(self) -> tuple[str, ...]:
        """What the server is started with."""
        push = f'{PROGRAM} --config="{self.config}" --stanza={STANZA} archive-push %p'
        return (
            "archive_mode=on",
            f"archive_timeout={HANDED_ON_AFTER_S}",
            f"archive_command='{push}'",
        )

    def ready(self, port: int) -> None:
        """Write the configuration and make the archive where there is none yet."""
        for folder in (self.repo, self.config.parent / "lock"):
            self.cluster.as_owner("mkdir", "-p", str(folder))
        cipher = ""
        if self.passphrase:
            cipher = f"repo1-cipher-type=aes-256-cbc\nrepo1-cipher-pass={self.passphrase}\n"
        text = CONFIG.format(
            repo=self.repo,
            full=FULL_KEPT,
            cipher=cipher,
            waiting=MOST_WAITING,
            run=self.config.parent,
            stanza=STANZA,
            data=self.cluster.data,
            port=port,
            sockets=self.cluster.sockets,
            user=USER,
        )
        # It holds the passphrase: for the server's user alone.
        self.config.unlink(missing_ok=True)
        self.config.touch(mode=0o600)
        self.config.write_text(text)
        if os.geteuid() == 0:
            shutil.chown(self.config, "postgres")

    def create(self) -> None:
        """Begin the archive; nothing where it is begun."""
        self._run("stanza-create")

    def base(self, is_full: bool) -> None:
        """A base backup: all, or what has changed since the last that was all."""
        self._run("backup", f"--type={'full' if is_full else 'diff'}")

    def back_to(self, moment: datetime) -> None:
        """Fill the server's empty data folder so that its next start goes to a moment."""
        target = moment.astimezone().strftime("%Y-%m-%d %H:%M:%S%z")
        self._run("restore", "--type=time", f"--target={target}", "--target-action=promote")

    def _run(self, *words: str) -> None:
        done = self.cluster.as_owner(
            PROGRAM, f"--config={self.config}", f"--stanza={STANZA}", *words
        )
        if done.returncode:
            said = (done.stdout + done.stderr).strip()[-400:]
            raise Stop(f"The log archive refuses {words[0]}: {said}")


def with_archive(cluster: Cluster, settings: BackupSettings) -> tuple[Cluster, LogArchive | None]:
    """The cluster with its log kept, and the archive; as it was where nothing keeps it."""
    if not settings.archive or not _is_there():
        return cluster, None
    passphrase = _passphrase() if settings.key else ""
    repo = _repo(cluster, settings)
    if not _may_be_written(cluster, repo):
        warn(f"The database's user may not write to {repo.parent}: no log archive there.")
        return cluster, None
    archive = LogArchive(cluster, repo, passphrase)
    return replace(cluster, options=archive.server_options()), archive


def begin(archive: LogArchive | None, port: int) -> None:
    """Begin to keep the log of a server that has started; a room without it goes on."""
    if archive is None:
        return
    try:
        archive.ready(port)
        archive.create()
    except Stop as stop:
        warn(f"{stop}\nThe room goes on without it.")


def _repo(cluster: Cluster, settings: BackupSettings) -> Path:
    """The archive's folder, one for each cluster that the room has had: a log fits no other."""
    cluster.home.mkdir(parents=True, exist_ok=True)
    file = cluster.home / ARCHIVE_ID
    if not file.exists():
        file.write_text(secrets.token_hex(4))
    name = f"log-archive-{'encrypted-' if settings.key else ''}{file.read_text().strip()}"
    return (settings.ready() if settings.folder else cluster.home) / name


def _is_there() -> bool:
    if shutil.which(PROGRAM):
        return True
    try:
        system.install([PROGRAM], "the archive of the database's log")
    except Stop as stop:
        warn(f"{stop}\nUntil then the room cannot be brought back to a moment.")
    return shutil.which(PROGRAM) is not None


def _passphrase() -> str:
    file = paths.LOCAL / "archive_passphrase"
    if not file.exists():
        file.touch(mode=0o600)
        file.write_text(secrets.token_urlsafe(32))
    return file.read_text().strip()


def _may_be_written(cluster: Cluster, repo: Path) -> bool:
    if not repo.exists():
        try:
            repo.mkdir()
        except OSError:
            return False
        if os.geteuid() == 0:
            shutil.chown(repo, "postgres")
    return cluster.as_owner("test", "-w", str(repo)).returncode == 0


def wait_until_promoted(cluster: Cluster, port: int) -> None:
    """Wait until a server that goes through its log takes changes again."""
    deadline = time.monotonic() + PROMOTED_WITHIN_S
    psql = cluster.client("psql", port, "-tAc", "SELECT pg_is_in_recovery()", database="postgres")
    while True:
        done = subprocess.run(psql, capture_output=True, text=True, env=cluster.secrets())
        if done.stdout.strip() == "f":
            return
        if time.monotonic() > deadline:
            raise Stop(f"The database does not reach that moment: {done.stderr.strip()[-300:]}")
        time.sleep(0.2)
