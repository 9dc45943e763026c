"""A room written as a zip of open formats: a line of JSON for each row, pictures as files, and a
manifest with counts and digests.
"""

import hashlib
import json
import zipfile
from collections.abc import Iterator
from typing import IO, Any, cast

from django.db import connection, models, transaction
from django.utils import timezone

from tempermark.web.kit.records.versions import steps_taken
from tempermark.web.overview.archive.tables import fields_of, name_of, tables

FORMAT = "tempermark.room/1"
MANIFEST = "manifest.json"
CHUNK = 500
# What a file's first bytes say that it is.
KINDS = {b"\x89PNG": "png", b"\xff\xd8\xff": "jpg", b"<svg": "svg", b"<?xm": "svg"}


def room_archive() -> Iterator[bytes]:
    """The archive in parts, of one moment; nothing of it is whole in memory but one picture."""
    is_outermost = not connection.in_atomic_block
    with transaction.atomic():
        if is_outermost:
            with connection.cursor() as cursor:
                # All tables as they are now, while people go on.
                cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY")
        yield from _parts()


def _parts() -> Iterator[bytes]:
    out = _Pipe()
    described = {}
    with zipfile.ZipFile(cast(IO[bytes], out), "w", zipfile.ZIP_DEFLATED) as archive:
        for model in tables():
            name, digest, count = f"tables/{name_of(model)}.jsonl", hashlib.sha256(), 0
            binary = [f for f in fields_of(model) if isinstance(f, models.BinaryField)]
            with archive.open(name, "w", force_zip64=True) as table:
                for row in _rows(model, binary):
                    line = (json.dumps(row, ensure_ascii=False) + "\n").encode()
                    digest.update(line)
                    count += 1
                    table.write(line)
                    if out.is_long:
                        yield out.taken()
            for field in binary:
                for pk, content in _contents(model, field):
                    archive.writestr(_file_name(model, field, pk, content), content)
                    yield out.taken()
            described[name_of(model)] = {"rows": count, "sha256": digest.hexdigest()}
        archive.writestr(MANIFEST, json.dumps(_manifest(described), indent=1))
    yield out.taken()


def _rows(model: type[models.Model], binary: list[Any]) -> Iterator[dict[str, Any]]:
    """Rows as JSON has them; a picture is the name of its file."""
    plain = [field for field in fields_of(model) if field not in binary]
    rows = model._base_manager.order_by("pk").values_list(*(f.attname for f in plain))
    for row in rows.iterator(chunk_size=CHUNK):
        yield {f.attname: _as_json(f, value) for f, value in zip(plain, row, strict=True)}


def _as_json(field: Any, value: Any) -> Any:
    """A value as JSON has it; moments with their offset, decimals and keys as text."""
    if value is None or isinstance(field, models.JSONField):
        return value
    if hasattr(value, "isoformat"):
        return value.isoformat()
    if isinstance(value, list):
        return [_as_json(None, one) for one in value]
    return value if isinstance(value, str | int | float | bool) else str(value)


def _contents(model: type[models.Model], field: Any) -> Iterator[tuple[Any, bytes]]:
    rows = model._base_manager.order_by("pk").values_list("pk", field.attname)
    for pk, content in rows.iterator(chunk_size=1):
        if content is not None:
            yield pk, bytes(content)


def _file_name(model: type[models.Model], field: Any, pk: Any, content: bytes) -> str:
    kind = next((kind for sign, kind in KINDS.items() if content.startswith(sign)), "bin")
    return f"files/{name_of(model)}/{pk}.{field.attname}.{kind}"


def _manifest(described: dict[str, Any]) -> dict[str, Any]:
    return {
        "format": FORMAT,
        "at": timezone.now().isoformat(),
        "steps": steps_taken(),
        "tables": described,
    }


class _Pipe:
    """What zipfile writes to, emptied as it fills."""

    def __init__(self) -> None:
        self.parts: list[bytes] = []
        self.size = 0

    @property
    def is_long(self) -> bool:
        """Whether enough lies here to be handed on."""
        return self.size > 256 * 1024

    def write(self, part: bytes) -> int:
        """Keep a part."""
        self.parts.append(bytes(part))
        self.size += len(part)
        return len(part)

    def flush(self) -> None:
        """Nothing waits elsewhere."""

    def taken(self) -> bytes:
        """What was written since the last time."""
        found = b"".join(self.parts)
        self.parts, self.size = [], 0
        return found
