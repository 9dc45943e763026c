"""Backups: made of one moment, read back before they count, brought back, and never by halves."""

import json
import shutil
import subprocess
import tarfile
import tempfile
import time
from datetime import datetime, timedelta
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from launcher import paths, system
from launcher.backups import bundle, fingerprint, log_archive, make, replaced, restore, retention
from launcher.backups import settings as chosen
from launcher.backups.bundle import Bundle
from launcher.backups.log_archive import with_archive
from launcher.backups.settings import BackupSettings, due_at
from launcher.cluster import Cluster
from launcher.say import Stop
from tests.support.clusters import folder_for_clusters, sql

pytestmark = pytest.mark.long

NOON = datetime(2026, 11, 28, 12, 0).astimezone()


@pytest.fixture
def place(monkeypatch):
    """A `.local` of its own."""
    with folder_for_clusters() as top:
        local = top / "local"
        local.mkdir()
        (local / "secret_key").write_text("of this room")
        monkeypatch.setattr(paths, "LOCAL", local)
        monkeypatch.setattr(make, "note", lambda *_: None)
        monkeypatch.setattr(restore, "_prepare", lambda *_: None)
        monkeypatch.setattr(
            make, "cluster", lambda room: Cluster(room, top / room, system.need_postgres())
        )
        yield top


@pytest.fixture
def room(place):
    """A room with a table of pieces in it."""
    made = Cluster("test", place / "room", system.need_postgres())
    made.start()
    sql(made, "CREATE TABLE piece (id int, name text, picture bytea, at timestamptz, dial float)")
    add_pieces(made, 200)
    yield made
    made.stop()


def add_pieces(room, count):
    sql(
        room,
        "INSERT INTO piece SELECT n, 'piece ' || n, decode(md5(n::text), 'hex'), now(), n / 3.0 "
        f"FROM generate_series(1, {count}) n",
    )


def yes(_):
    return True


def made_backup(room, **settings):
    return Path(make.backup(room, room.running_port(), BackupSettings(**settings)).where)


def test_a_backup_comes_back_and_what_was_there_is_kept(room, place):
    path = made_backup(room)
    sql(room, "DELETE FROM piece WHERE id > 5")
    kept = restore.from_bundle(room, path, "", yes)
    room.start()
    assert sql(room, "SELECT count(*) FROM piece") == "200"
    replaced.swap_in(room, kept.name, yes)
    room.start()
    assert sql(room, "SELECT count(*) FROM piece") == "5"


def test_what_was_replaced_is_listed_and_deleted_with_its_log(room, place):
    path = made_backup(room)
    kept = restore.from_bundle(room, path, "", yes)
    # A file that was cut off names no archive: least of all every one.
    (kept / log_archive.ARCHIVE_ID).write_text("\n")
    assert replaced._log_archives(replaced.all_replaced(room)[0]) == []
    (kept / log_archive.ARCHIVE_ID).write_text("c0ffee")
    own, other = (paths.LOCAL / "backups" / f"log-archive-{name}" for name in ("c0ffee", "other"))
    own.mkdir()
    other.mkdir()
    (place / "room-replaced-yesterday").mkdir()
    (listed,) = replaced.all_replaced(room)
    size = listed.bytes
    assert listed.path == kept and size > 10 * 2**20
    with pytest.raises(Stop, match="Nothing was deleted"):
        replaced.delete(room, kept.name, lambda _: False)
    with pytest.raises(Stop, match=f"is not kept here. Kept: {kept.name}"):
        replaced.delete(room, "room", yes)
    assert kept.exists()
    assert replaced.delete(room, kept.name, yes) == size
    assert not kept.exists() and not own.exists() and other.exists()
    assert replaced.all_replaced(room) == []
    room.start()
    assert sql(room, "SELECT count(*) FROM piece") == "200"


def test_a_backup_holds_one_moment_while_people_work(room, monkeypatch):
    real = subprocess.run

    def busy(command, **more):
        if command[0].endswith("pg_dump"):
            add_pieces(room, 50)
        return real(command, **more)

    monkeypatch.setattr(subprocess, "run", busy)
    manifest = bundle.unpack(made_backup(room), Path(tempfile.mkdtemp()), "")
    assert manifest["tables"]["public.piece"][0] == "200"
    assert sql(room, "SELECT count(*) FROM piece") == "250"


def test_a_dump_that_holds_something_else_is_not_kept(room, monkeypatch, place):
    monkeypatch.setattr(
        fingerprint,
        "of_database",
        lambda *_: fingerprint.Fingerprint({"public.piece": ["200", "1"]}),
    )
    with pytest.raises(Stop, match=r"differs in public\.piece"):
        made_backup(room)
    assert list((paths.LOCAL / "backups").iterdir()) == []
    assert not (place / "scratch").exists()


def test_a_damaged_backup_changes_nothing(room):
    path = made_backup(room)
    work = path.parent / "work"
    work.mkdir()
    # By the program: what Python's own takes of arguments is not the same in all its versions.
    subprocess.run(["tar", "-xf", path, "-C", work], check=True)
    dump = work / bundle.DUMP
    dump.write_bytes(dump.read_bytes()[:-40])
    with tarfile.open(path, "w") as tar:
        tar.add(work, arcname=".")
    with pytest.raises(Stop, match="damaged"):
        restore.from_bundle(room, path, "", yes)
    assert sql(room, "SELECT count(*) FROM piece") == "200"


def test_a_return_that_fails_puts_the_data_back(room, monkeypatch):
    path = made_backup(room)
    sql(room, "DELETE FROM piece WHERE id > 7")

    def refuses(*_):
        raise Stop("no migration")

    monkeypatch.setattr(restore, "_prepare", refuses)
    with pytest.raises(Stop, match="no migration"):
        restore.from_bundle(room, path, "", yes)
    room.start()
    assert sql(room, "SELECT count(*) FROM piece") == "7"


def test_nothing_is_replaced_unless_somebody_confirms_it(room):
    path = made_backup(room)
    with pytest.raises(Stop, match="Nothing was changed"):
        restore.from_bundle(room, path, "", lambda summary: "200 rows" not in summary)
    assert sql(room, "SELECT count(*) FROM piece") == "200"


def test_an_encrypted_backup_opens_with_the_shop_s_identity_alone(room, place):
    identity, other = place / "shop.key", place / "other.key"
    for file in (identity, other):
        subprocess.run(["age-keygen", "-o", str(file)], check=True, capture_output=True)
    recipients = place / "recipients.txt"
    done = subprocess.run(["age-keygen", "-y", str(identity)], capture_output=True, text=True)
    recipients.write_text(done.stdout)
    path = made_backup(room, key=str(recipients))
    assert path.name.endswith(".tar.age")
    assert b"piece" not in path.read_bytes()
    with pytest.raises(Stop, match="give --identity"):
        restore.from_bundle(room, path, "", yes)
    with pytest.raises(Stop, match="could not be decrypted"):
        restore.from_bundle(room, path, str(other), yes)
    restore.from_bundle(room, path, str(identity), yes)
    room.start()
    assert sql(room, "SELECT count(*) FROM piece") == "200"


def test_keys_come_back_on_a_new_machine_and_stay_on_this_one(room, place):
    path = made_backup(room)
    (paths.LOCAL / "secret_key").write_text("of later")
    restore.from_bundle(room, path, "", yes)
    assert (paths.LOCAL / "secret_key").read_text() == "of later"
    (paths.LOCAL / "secret_key").unlink()
    restore.from_bundle(room, path, "", yes)
    assert (paths.LOCAL / "secret_key").read_text() == "of this room"


def test_a_disk_that_is_not_mounted_and_one_that_is_full(room, place, monkeypatch):
    with pytest.raises(Stop, match="Is the disk mounted"):
        made_backup(room, folder=str(place / "gone"))
    monkeypatch.setattr(
        shutil, "disk_usage", lambda _: shutil._ntuple_diskusage(10**9, 10**9 - 2**20, 2**20)
    )
    with pytest.raises(Stop, match="too full: 1 MB free"):
        made_backup(room)


def test_a_failure_is_noted_with_its_reason(room, place, monkeypatch):
    noted = []
    monkeypatch.setattr(make, "note", lambda room, port, made: noted.append(made))
    with pytest.raises(Stop):
        made_backup(room, folder=str(place / "gone"))
    made_backup(room)
    assert "Is the disk mounted" in noted[0].why
    assert (noted[1].why, noted[1].rows) == ("", 200)


def test_another_one_under_way_is_no_failed_backup(room, monkeypatch):
    noted = []
    monkeypatch.setattr(make, "note", lambda room, port, made: noted.append(made))
    with make._one_at_a_time(), pytest.raises(Stop, match="under way"):
        made_backup(room)
    assert noted == []


def test_a_room_s_backups_are_its_own(place):
    folder = place / "disk"
    folder.mkdir()
    for room in ("serve", "demo"):
        (folder / bundle.name_of(room, NOON, False)).touch()
    settings = BackupSettings(folder=str(folder))
    for room in ("serve", "demo"):
        (found,) = bundle.bundles(folder, room)
        assert found.path.name == bundle.name_of(room, NOON, False)
        assert make.last_in(settings, room) == NOON
    assert make.last_in(settings, "test") is None


def test_what_a_bundle_should_not_hold_is_not_taken_out(room, place):
    path = made_backup(room)
    with tarfile.open(path, "a") as tar:
        link = tarfile.TarInfo("keys/archive_passphrase")
        link.type, link.linkname = tarfile.SYMTYPE, "/etc/passwd"
        tar.addfile(link)
        for name in ("../outside", "keys/../../outside", "other"):
            tar.addfile(tarfile.TarInfo(name))
    work = place / "work"
    work.mkdir()
    bundle.unpack(path, work, "")
    found = {str(p.relative_to(work)) for p in work.rglob("*") if not p.is_dir()}
    assert found == {"manifest.json", "database.dump", "keys/secret_key"}
    assert not (place / "outside").exists()


def test_back_to_a_moment_by_the_log_archive(place, monkeypatch):
    plain = Cluster("test", place / "room", system.need_postgres())
    room, archive = with_archive(plain, BackupSettings())
    port, _ = room.start()
    log_archive.begin(archive, port)
    sql(room, "CREATE TABLE piece (id int)")
    made = make.backup(room, port, BackupSettings(), archive)
    assert made.is_archived
    sql(room, "INSERT INTO piece VALUES (1)")
    time.sleep(1.2)
    moment = datetime.now().astimezone()
    time.sleep(1.2)
    sql(room, "INSERT INTO piece VALUES (2)")
    room.stop()
    aside = restore.to_moment(room, archive, moment, yes)
    room.start()
    assert sql(room, "SELECT max(id) FROM piece") == "1"
    room.stop()
    with pytest.raises(Stop, match="unable to find backup set"):
        restore.to_moment(room, archive, NOON - timedelta(days=400), yes)
    room.start()
    assert sql(room, "SELECT max(id) FROM piece") == "1"
    room.stop()
    replaced.swap_in(room, aside.name, yes)
    again, archive = with_archive(plain, BackupSettings())
    port, _ = again.start()
    log_archive.begin(archive, port)
    assert sql(again, "SELECT max(id) FROM piece") == "2"
    assert make.backup(again, port, BackupSettings(), archive).is_archived
    again.stop()
    # Each has an archive of its own now, and goes with it.
    (one,) = replaced.all_replaced(room)
    assert one.path.parent == room.home
    own, other = one.archive_id.read_text(), (room.home / log_archive.ARCHIVE_ID).read_text()
    assert own != other
    aside = replaced.swap_in(room, one.name, yes)
    assert (room.home / log_archive.ARCHIVE_ID).read_text() == own
    port, _ = room.start()
    archive.ready(port)
    assert sql(room, "SELECT max(id) FROM piece") == "1"
    room.stop()
    replaced.delete(room, aside.name, yes)
    left = {path.name for path in room.home.glob("log-archive-*")}
    assert left == {f"log-archive-{own}"}
    assert not list(room.home.glob("archive-id-of-*"))


def test_what_is_no_backup_is_refused(room, place):
    for content in (b"", b"nothing", json.dumps({"format": "other/1"}).encode()):
        file = place / "wrong.tar"
        file.write_bytes(content)
        with pytest.raises(Stop, match="is no backup"):
            restore.from_bundle(room, file, "", yes)


def at_hours(*hours):
    return [Bundle(Path(f"b{h}"), NOON - timedelta(hours=h)) for h in hours]


@given(st.lists(st.integers(0, 24 * 900), unique=True, max_size=80))
def test_backups_of_two_days_and_the_newest_stay_and_all_do_not(hours):
    found = at_hours(*hours)
    gone = {b.path for b in retention.outdated(found, NOON)}
    for one in found:
        if NOON - one.at <= retention.ALL_FOR:
            assert one.path not in gone
    if found:
        assert max(found, key=lambda b: b.at).path not in gone
    left = [b for b in found if b.path not in gone]
    assert len([b for b in left if NOON - b.at > retention.ALL_FOR]) <= 14 + 8 + 24
    assert retention.outdated(left, NOON) == []


def test_a_year_of_daily_backups_leaves_days_weeks_and_months():
    left = at_hours(*(24 * d for d in range(365)))
    gone = retention.outdated(left, NOON)
    ages = sorted((NOON - b.at).days for b in left if b.path not in {g.path for g in gone})
    assert ages[:14] == list(range(14))
    assert 20 <= len(ages) <= 14 + 8 + 13
    assert ages[-1] > 300


@pytest.mark.parametrize(
    ("last", "due"),
    [
        (None, "11-28 12:00"),
        ("11-28 02:30", "11-29 02:30"),
        ("11-27 15:00", "11-28 02:30"),
        ("11-20 02:31", "11-21 02:30"),
    ],
)
def test_when_the_next_is_due(last, due):
    begun = last and datetime.strptime(f"2026-{last}", "%Y-%m-%d %H:%M").astimezone()
    assert due_at(BackupSettings(), begun, NOON).strftime("%m-%d %H:%M") == due
    assert due_at(BackupSettings(at="never"), begun, NOON) is None


def test_a_last_backup_that_is_still_to_come_is_the_work_of_a_wrong_clock():
    assert due_at(BackupSettings(), NOON + timedelta(days=400), NOON) == NOON


def test_settings_are_kept_and_wrong_ones_are_not(place):
    chosen.save(BackupSettings(at="21:00"))
    assert chosen.load().at == "21:00"
    for wrong in ({"at": "25:00"}, {"at": "soon"}, {"folder": "/nowhere/at/all"}, {"key": "/no"}):
        with pytest.raises(Stop):
            chosen.save(BackupSettings(**wrong))
    assert chosen.load().at == "21:00"
    (paths.LOCAL / "backups.json").write_text("{")
    assert chosen.load() == BackupSettings()
