"""A dump of a database and its fingerprint, both of one moment."""

import subprocess
from pathlib import Path

from launcher.backups import fingerprint
from launcher.backups.fingerprint import Fingerprint
from launcher.cluster import Cluster
from launcher.say import Stop

END = "end-of-answer"


class Snapshot:
    """A transaction that sees the database as it was when it began, held open in psql."""

    def __init__(self, cluster: Cluster, port: int) -> None:
        command = cluster.client("psql", port, "-qtAX", "-v", "ON_ERROR_STOP=1")
        self.session = subprocess.Popen(
            command,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            env=cluster.secrets(),
        )
        self.name = self.ask(
            "BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY; SELECT pg_export_snapshot();"
        )[0]

    def ask(self, sql: str) -> list[str]:
        """The lines that a statement answers. Raises Stop where the session has ended."""
        if self.session.stdin is None or self.session.stdout is None:
            raise Stop("The database's session has no input.")
        self.session.stdin.write(f"{sql}\n\\echo {END}\n")
        self.session.stdin.flush()
        lines: list[str] = []
        for line in self.session.stdout:
            if line.strip() == END:
                return lines
            lines.append(line.rstrip("\n"))
        said = self.session.stderr.read() if self.session.stderr else ""
        raise Stop(f"The database could not be read: {said.strip()[-300:]}")

    def end(self) -> None:
        """Let go of the moment."""
        self.session.communicate("\\q\n")


def dump(cluster: Cluster, port: int, file: Path) -> Fingerprint:
    """Write PostgreSQL's own compressed dump to a file; what it holds. Raises Stop where it cannot
    be written: a full disk, say.
    """
    snapshot = Snapshot(cluster, port)
    try:
        options = ["--format=custom", "--compress=6", f"--snapshot={snapshot.name}"]
        command = cluster.client("pg_dump", port, *options, f"--file={file}")
        done = subprocess.run(command, capture_output=True, text=True, env=cluster.secrets())
        if done.returncode:
            raise Stop(f"The dump failed: {done.stderr.strip()[-300:]}")
        return fingerprint.parse(
            snapshot.ask(fingerprint.statement(snapshot.ask(fingerprint.TABLES)))
        )
    finally:
        snapshot.end()


def load(cluster: Cluster, port: int, file: Path) -> Fingerprint:
    """Fill an empty database from a dump; what it holds then."""
    options = ["--no-owner", "--exit-on-error", str(file)]
    command = cluster.client("pg_restore", port, *options)
    done = subprocess.run(command, capture_output=True, text=True, env=cluster.secrets())
    if done.returncode:
        raise Stop(f"The dump could not be read back: {done.stderr.strip()[-300:]}")
    return fingerprint.of_database(cluster, port)
