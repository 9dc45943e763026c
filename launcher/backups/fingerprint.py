"""What a database holds, in a few numbers: the rows of each table and a sum over their contents.

Equal fingerprints mean equal contents but for a chance of about 1 in 2^64 a table: the sum of 64
bits of the MD5 of each row's text is the same in whatever order the rows lie.
"""

import json
import subprocess
from dataclasses import dataclass

from launcher.cluster import Cluster
from launcher.say import Stop

TABLES = """SELECT quote_ident(table_schema) || '.' || quote_ident(table_name)
FROM information_schema.tables WHERE table_type = 'BASE TABLE'
AND table_schema NOT IN ('pg_catalog', 'information_schema') ORDER BY 1;"""
# Floats by their shortest exact text, moments in UTC: the text of a row depends on nothing else.
PLAIN = "SET extra_float_digits = 1; SET timezone = 'UTC'; SET datestyle = 'ISO'; "
ROWS = (
    "SELECT '{name}', count(*), coalesce(sum(('x' || left(md5(t::text), 16))::bit(64)::bigint), 0)"
    " FROM {name} t"
)


@dataclass(frozen=True)
class Fingerprint:
    """Table → [rows, sum over their contents]."""

    tables: dict[str, list[str]]

    @property
    def rows(self) -> int:
        """Rows of all tables."""
        return sum(int(rows) for rows, _ in self.tables.values())

    def differs_from(self, other: "Fingerprint") -> list[str]:
        """Tables that hold something else, or are in one of them alone."""
        names = self.tables.keys() | other.tables.keys()
        return sorted(n for n in names if self.tables.get(n) != other.tables.get(n))

    def as_json(self) -> str:
        """As a manifest keeps it."""
        return json.dumps(self.tables, indent=1)


def statement(tables: list[str]) -> str:
    """One statement that gives a line for each table."""
    parts = [ROWS.format(name=name) for name in tables]
    return PLAIN + " UNION ALL ".join(parts) + ";"


def parse(lines: list[str]) -> Fingerprint:
    """The fingerprint in psql's unaligned lines `name|rows|sum`."""
    cells = [line.split("|") for line in lines if line.count("|") == 2]
    return Fingerprint({name: [rows, total] for name, rows, total in cells})


def of_database(cluster: Cluster, port: int) -> Fingerprint:
    """The fingerprint of a room's database as it is now."""
    tables = _run(cluster, port, TABLES)
    return parse(_run(cluster, port, statement(tables))) if tables else Fingerprint({})


def _run(cluster: Cluster, port: int, sql: str) -> list[str]:
    psql = cluster.client("psql", port, "-qtAX", "-v", "ON_ERROR_STOP=1", "-c", sql)
    done = subprocess.run(psql, capture_output=True, text=True, env=cluster.secrets())
    if done.returncode:
        raise Stop(f"The database could not be read: {done.stderr.strip()[-300:]}")
    return done.stdout.split("\n")[:-1]
