"""The whole room out as one archive, and in again."""

import io
import json
import zipfile
from uuid import uuid4

import pytest
from django.core.management import CommandError, call_command

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.kit.records.audit import AuditEntry
from tempermark.web.overview.archive.reading import bring_in
from tempermark.web.overview.archive.tables import fields_of, name_of, tables
from tempermark.web.overview.archive.writing import room_archive
from tempermark.web.printing.models import Art
from tempermark.web.run.models import TestPress
from tests.support import room
from tests.support.addresses import rows_of
from tests.support.databases import empty_tables
from tests.support.kept import kept
from tests.support.pictures import encoded, quartered


def build():
    room.person("maren", "lead")
    technician = room.person("isla", "technician")
    rows_of(technician, room.element("Heron"))
    picture = encoded(quartered())
    Art.objects.create(
        name="Pennant",
        data=picture,
        preview=picture,
        entry_key=uuid4(),
        added_by=technician,
        kind="png",
    )
    return b"".join(room_archive())


@pytest.fixture(scope="module")
def written(django_db_setup, django_db_blocker):
    """The archive of a room with a row of everything."""
    with kept(django_db_blocker, build) as archive:
        pass
    return archive


@pytest.fixture
def file(written, tmp_path):
    found = tmp_path / "room.zip"
    found.write_bytes(written)
    return found


def parts(archive):
    with zipfile.ZipFile(io.BytesIO(archive)) as found:
        return {name: found.read(name) for name in found.namelist()}


def changed(archive, **more):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as new:
        for name, content in (parts(archive) | more).items():
            if content is not None:
                new.writestr(name, content)
    return out.getvalue()


def test_every_table_and_column_is_there_in_an_open_format(written):
    found = parts(written)
    manifest = json.loads(found["manifest.json"])
    assert manifest["format"] == "tempermark.room/1"
    assert set(manifest["tables"]) == {name_of(model) for model in tables()}
    lines = found["tables/run.testpress.jsonl"].decode().splitlines()
    assert len(lines) == manifest["tables"]["run.testpress"]["rows"] == len(lines) > 0
    assert set(json.loads(lines[0])) == {f.attname for f in fields_of(TestPress)}


def test_pictures_are_files(written):
    (name,) = (name for name in parts(written) if name.endswith(".data.png"))
    assert parts(written)[name] == encoded(quartered())


def test_no_secret_is_in_it(written):
    user = json.loads(parts(written)["tables/accounts.user.jsonl"].splitlines()[0])
    assert "password" not in user
    names = set(parts(written))
    for left_out in ("signuplink", "benchpin", "signedin", "sharedtablet", "session"):
        assert not [name for name in names if left_out in name]
    assert b"md5$" not in b"".join(parts(written).values())


@pytest.mark.django_db(transaction=True)
def test_an_empty_room_takes_it_in_and_writes_the_same_again(file, written):
    rows = bring_in(file)
    again = parts(b"".join(room_archive()))
    before = parts(written)
    for name in before.keys() - {"manifest.json", "tables/kit.auditentry.jsonl"}:
        assert again[name] == before[name], name
    counted = json.loads(before["manifest.json"])["tables"].values()
    assert rows == sum(table["rows"] for table in counted)
    assert AuditEntry.objects.first().did == "brought archive in"
    assert not User.objects.get(username="maren").has_usable_password()
    # Numbers go on behind those that came.
    assert room.person("bente", "technician").pk > User.objects.get(username="isla").pk
    empty_tables(None)


@pytest.mark.django_db
@pytest.mark.parametrize("begun", ["a press", "a person"])
def test_a_room_in_use_takes_nothing_in(file, begun):
    room.element("Heron") if begun == "a press" else room.person("maren", "lead")
    with pytest.raises(InputError, match="in use"):
        bring_in(file)


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("part", "content", "why"),
    [
        ("manifest.json", None, "no archive of a room"),
        ("manifest.json", b"{}", "does not say"),
        ("manifest.json", b"[", "."),
        ("tables/presses.press.jsonl", b"", "was changed"),
        ("tables/presses.press.jsonl", b"{}\n", "."),
        ("tables/presses.press.jsonl", b"nothing\n", "."),
        ("tables/run.testpress.jsonl", None, "no archive of a room"),
    ],
)
def test_what_is_damaged_comes_in_not_at_all(written, tmp_path, part, content, why):
    file = tmp_path / "room.zip"
    file.write_bytes(changed(written, **{part: content}))
    with pytest.raises(InputError, match=why):
        bring_in(file)
    assert not TestPress.every.exists()
    assert not User.objects.exists()


@pytest.mark.django_db
def test_an_archive_of_another_version_is_refused(written, tmp_path):
    manifest = json.loads(parts(written)["manifest.json"]) | {"steps": {"run": "0001_initial"}}
    file = tmp_path / "room.zip"
    file.write_bytes(changed(written, **{"manifest.json": json.dumps(manifest).encode()}))
    with pytest.raises(CommandError, match="another version"):
        call_command("import_room", str(file))


@pytest.mark.django_db
def test_what_is_no_zip_is_refused(tmp_path):
    file = tmp_path / "room.zip"
    file.write_bytes(b"nothing")
    with pytest.raises(InputError, match="no archive of a room"):
        bring_in(file)
    with pytest.raises(InputError, match="no archive of a room"):
        bring_in(tmp_path / "gone.zip")


@pytest.mark.django_db
def test_leads_take_it_from_the_page_of_files(browse, browse_as, lead, element):
    assert browse.get("/files/room.zip").status_code == 403
    assert "whole room" not in room.words(browse.get("/files/"))
    leads = browse_as(lead)
    assert "whole room" in room.words(leads.get("/files/"))
    archive = b"".join(leads.get("/files/room.zip").streaming_content)
    assert b"Heron" in parts(archive)["tables/presses.press.jsonl"]
    assert AuditEntry.objects.first().did == "took the whole room out"
