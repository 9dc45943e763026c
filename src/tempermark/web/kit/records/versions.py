"""Whether a database and this version belong together."""

from dataclasses import dataclass
from enum import Enum

from django.db import connection
from django.db.migrations.executor import MigrationExecutor


class Fit(Enum):
    """How a database stands to this version."""

    SAME = "same"
    EMPTY = "empty"
    OLDER = "older"
    NEWER = "newer"


@dataclass(frozen=True)
class DatabaseFit:
    """How a database stands to this version, and how many steps it lacks."""

    kind: Fit
    pending: int
    unknown: tuple[str, ...] = ()


def fit_of_database() -> DatabaseFit:
    """How the database stands to this version; NEWER where it took steps that are unknown here."""
    executor = MigrationExecutor(connection)
    applied = set(executor.loader.applied_migrations)
    unknown = applied - set(executor.loader.graph.nodes)
    pending = len(executor.migration_plan(executor.loader.graph.leaf_nodes()))
    if unknown:
        names = tuple(sorted(f"{app}.{name}" for app, name in unknown))
        return DatabaseFit(Fit.NEWER, pending, names)
    kind = Fit.EMPTY if not applied else Fit.OLDER if pending else Fit.SAME
    return DatabaseFit(kind, pending)


def must_fit() -> None:
    """Raises SystemExit where this version must not serve the database: two versions never do."""
    fit = fit_of_database()
    if fit.kind is not Fit.SAME:
        named = f" ({', '.join(fit.unknown[:3])})" if fit.unknown else ""
        raise SystemExit(f"The database is {fit.kind.value} for this version{named}: not served.")


def steps_taken() -> dict[str, str]:
    """App → its newest step: what the tables of this database look like."""
    taken = MigrationExecutor(connection).loader.applied_migrations
    newest: dict[str, str] = {}
    for app, name in sorted(taken):
        newest[app] = name
    return newest
