"""An archive brought into an empty room: all of it or nothing."""

import hashlib
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from django.core.exceptions import ValidationError
from django.core.management.color import no_style
from django.db import DatabaseError, connection, models, transaction
from django.utils import timezone

from tempermark.core.errors import InputError
from tempermark.files.document import parse_json
from tempermark.web.accounts.models import User
from tempermark.web.kit.records.audit import AuditEntry, record
from tempermark.web.kit.records.backups import Backup
from tempermark.web.kit.records.versions import steps_taken
from tempermark.web.overview.archive.tables import fields_of, name_of, secrets_of, tables
from tempermark.web.overview.archive.writing import CHUNK, FORMAT, MANIFEST
from tempermark.web.presses.models import Press

# An archive's line or picture of more is none of ours.
LONGEST_LINE, LARGEST_FILE, LARGEST_MANIFEST = 16 * 2**20, 64 * 2**20, 2**20


def bring_in(path: Path) -> int:
    """Fill an empty room from an archive; how many rows. Raises InputError with nothing changed:
    for a room that is not empty, a file that is no archive or was changed, an archive of another
    version.
    """
    # The record of what was done here stays, and would meet the one that comes.
    if Press.objects.exists() or User.objects.exists() or AuditEntry.objects.exists():
        raise InputError.single(
            None,
            "This room is in use: an archive comes into an empty one, before anybody signs up.",
        )
    try:
        with zipfile.ZipFile(path) as archive, transaction.atomic():
            return _filled(archive)
    except InputError:
        raise
    except (zipfile.BadZipFile, KeyError, OSError) as error:
        raise InputError.single(None, f"{path.name} is no archive of a room: {error}") from None
    except (DatabaseError, ValidationError, ValueError, TypeError) as error:
        raise InputError.single(None, f"{path.name} does not fit together: {error}") from None


def _filled(archive: zipfile.ZipFile) -> int:
    manifest = _manifest(archive)
    known = tables()
    # What every room has from the start makes room for what the archive has of it.
    for model in known:
        if not _is_append_only(model):
            model._base_manager.all()._raw_delete(using=connection.alias)
    total = 0
    for model in known:
        described = manifest["tables"].get(name_of(model))
        if described is not None:
            total += _table(archive, model, described)
    with connection.cursor() as cursor:
        for statement in connection.ops.sequence_reset_sql(no_style(), known):
            cursor.execute(statement)
        cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
    record(None, "brought archive in", Backup(at=timezone.now()), of=manifest["at"], rows=total)
    return total


def _is_append_only(model: type[models.Model]) -> bool:
    return name_of(model) in ("kit.auditentry", "run.logentry")


def _manifest(archive: zipfile.ZipFile) -> dict[str, Any]:
    info = archive.getinfo(MANIFEST)
    if info.file_size > LARGEST_MANIFEST:
        raise InputError.single(None, "Its manifest is too long.")
    manifest = parse_json(archive.read(info))
    if not isinstance(manifest, dict) or manifest.get("format") != FORMAT:
        raise InputError.single(None, f"Its manifest does not say {FORMAT}.")
    if manifest.get("steps") != steps_taken():
        raise InputError.single(
            None,
            "It was written by another version of Tempermark: bring it in there, or write it again "
            "with this one.",
        )
    return manifest


def _table(archive: zipfile.ZipFile, model: type[models.Model], described: Any) -> int:
    files = {info.filename.rsplit(".", 1)[0]: info for info in archive.infolist()}
    digest, count, batch = hashlib.sha256(), 0, []
    for line in _lines(archive, f"tables/{name_of(model)}.jsonl"):
        digest.update(line)
        count += 1
        batch.append(_row(archive, files, model, parse_json(line)))
        if len(batch) == CHUNK:
            model._base_manager.bulk_create(batch)
            batch = []
    model._base_manager.bulk_create(batch)
    if (count, digest.hexdigest()) != (described["rows"], described["sha256"]):
        raise InputError.single(None, f"Its table {name_of(model)} was changed since then.")
    return count


def _lines(archive: zipfile.ZipFile, name: str) -> Iterator[bytes]:
    with archive.open(name) as table:
        while line := table.readline(LONGEST_LINE + 1):
            if len(line) > LONGEST_LINE:
                raise InputError.single(None, f"{name} has a line that is too long.")
            yield line


def _row(
    archive: zipfile.ZipFile,
    files: dict[str, zipfile.ZipInfo],
    model: type[models.Model],
    held: Any,
) -> models.Model:
    values = {}
    for field in fields_of(model):
        if isinstance(field, models.BinaryField):
            info = files.get(f"files/{name_of(model)}/{held['id']}.{field.attname}")
            if info is not None and info.file_size > LARGEST_FILE:
                raise InputError.single(None, f"{info.filename} is too large.")
            values[field.attname] = archive.read(info) if info is not None else None
        elif isinstance(field, models.JSONField):
            values[field.attname] = held[field.attname]
        else:
            values[field.attname] = field.to_python(held[field.attname])
    return model(**values, **secrets_of(model))
