"""Another version meets a room's data: a backup first, back where a step fails."""

import pytest

from launcher import rooms, system, upgrade
from launcher.backups.settings import BackupSettings
from launcher.cluster import Cluster
from launcher.say import Stop
from tests.support.clusters import folder_for_clusters, sql


@pytest.fixture
def room():
    with folder_for_clusters() as top:
        found = Cluster("test", top / "room", system.need_postgres())
        found.start()
        sql(found, "CREATE TABLE piece AS SELECT generate_series(1, 40) AS id")
        yield found
        found.stop()


@pytest.fixture
def acts(monkeypatch):
    """What was done in order; backups succeed."""
    done = []
    monkeypatch.setattr(upgrade, "backup", lambda *_: done.append("backup"))
    monkeypatch.setattr(rooms, "prepare_data", lambda *_: done.append("steps"))
    return done


def opened(room):
    return upgrade.open_up_to_date(room, room.running_port(), None, BackupSettings())


def pending(monkeypatch, answer):
    monkeypatch.setattr(upgrade, "_pending", lambda env: answer)


@pytest.mark.parametrize("answer", ["0", "none yet"])
def test_data_that_lack_nothing_are_opened_without_a_backup(room, acts, monkeypatch, answer):
    pending(monkeypatch, answer)
    assert opened(room).port == room.running_port()
    assert acts == ["steps"]


def test_a_backup_comes_before_the_steps_and_the_copy_goes_after_them(room, acts, monkeypatch):
    pending(monkeypatch, "3")
    assert opened(room).port == room.running_port()
    assert acts == ["backup", "steps"]
    assert sql(room, "SELECT count(*) FROM piece") == "40"
    assert not (room.home / upgrade.BEFORE).exists()


def test_a_step_that_fails_half_way_leaves_the_data_as_they_were(room, acts, monkeypatch):
    pending(monkeypatch, "3")

    def half(name, env):
        sql(room, "DELETE FROM piece WHERE id > 3; CREATE TABLE half_way (id int)")
        raise Stop("a step failed")

    monkeypatch.setattr(rooms, "prepare_data", half)
    with pytest.raises(Stop, match="a step failed"):
        opened(room)
    room.start()
    assert sql(room, "SELECT count(*) FROM piece") == "40"
    assert sql(room, "SELECT to_regclass('half_way') IS NULL") == "t"
    assert [p.name for p in room.home.iterdir() if "failed" in p.name or "before" in p.name] == []


def test_without_a_backup_nothing_is_changed(room, acts, monkeypatch):
    pending(monkeypatch, "3")

    def fails(*_):
        raise Stop("The folder /mnt/disk is not there.")

    monkeypatch.setattr(upgrade, "backup", fails)
    with pytest.raises(Stop, match="is not there"):
        opened(room)
    assert acts == []


def test_data_of_a_newer_version_are_left_alone(room, acts, monkeypatch):
    pending(monkeypatch, "newer")
    with pytest.raises(Stop, match="newer version"):
        opened(room)
    assert acts == []
