"""What one web worker remembers of a press is there for the others, and nobody depends on it."""

import os

import numpy as np
import pytest

from tempermark.web import gunicorn_conf
from tempermark.web.measure.known import remembered, shared
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.surveys import actions
from tests.support import room

ARRAYS = {"mean_c": np.array([1.0, 2.0]), "fault": np.array([-1, 3])}


@pytest.fixture
def folder(monkeypatch, tmp_path):
    monkeypatch.setenv(shared.FOLDER, str(tmp_path))
    return tmp_path


def test_arrays_are_found_by_their_name(folder):
    assert shared.shared("one") is None
    shared.share("one", ARRAYS)
    found = shared.shared("one")
    assert {name: value.tolist() for name, value in found.items()} == {
        "mean_c": [1.0, 2.0],
        "fault": [-1, 3],
    }
    assert shared.shared("two") is None
    assert [file.name for file in folder.iterdir()] == ["one.npz"]


def test_without_a_folder_nothing_is_shared(monkeypatch):
    monkeypatch.delenv(shared.FOLDER, raising=False)
    shared.share("one", ARRAYS)
    assert shared.shared("one") is None


def test_a_folder_that_is_gone_is_said_and_hurts_nothing(monkeypatch, tmp_path, caplog):
    monkeypatch.setenv(shared.FOLDER, str(tmp_path / "gone"))
    shared.share("one", ARRAYS)
    assert shared.shared("one") is None
    assert "is not shared" in caplog.text


def test_a_disk_that_is_full_is_not_kept_full(folder, monkeypatch, caplog):
    def full(file, **_):
        file.write(b"PK")
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(shared.np, "savez", full)
    shared.share("one", ARRAYS)
    assert "No space left" in caplog.text
    assert list(folder.iterdir()) == []


@pytest.mark.parametrize("content", [b"", b"PK\x03\x04 broken off", b"\x80\x04pickled"])
def test_a_file_that_cannot_be_read_is_none(folder, content):
    (folder / "one.npz").write_bytes(content)
    assert shared.shared("one") is None


def test_only_the_newest_are_there(folder):
    for number in range(shared.MOST_FILES + 3):
        shared.share(str(number), ARRAYS)
        os.utime(folder / f"{number}.npz", (number, number))
    shared.share("last", ARRAYS)
    names = {file.stem for file in folder.iterdir()}
    assert len(names) == shared.MOST_FILES
    assert {"last", str(shared.MOST_FILES + 2)} <= names
    assert "0" not in names


def test_the_master_makes_a_folder_of_its_own_and_deletes_it(monkeypatch, tmp_path):
    monkeypatch.setattr(gunicorn_conf.tempfile, "tempdir", str(tmp_path))
    monkeypatch.setattr(gunicorn_conf.subprocess, "run", lambda *_, **__: Fits())
    monkeypatch.delenv(shared.FOLDER, raising=False)
    gunicorn_conf.on_starting(None)
    (made,) = tmp_path.iterdir()
    assert os.environ[shared.FOLDER] == str(made)
    assert made.stat().st_mode & 0o077 == 0
    shared.share("one", ARRAYS)
    gunicorn_conf.on_exit(None)
    assert list(tmp_path.iterdir()) == []
    assert shared.FOLDER not in os.environ
    # Where there is no room for one, the room opens all the same.
    monkeypatch.setattr(gunicorn_conf.tempfile, "tempdir", str(tmp_path / "none"))
    gunicorn_conf.on_starting(None)
    assert shared.FOLDER not in os.environ
    gunicorn_conf.on_exit(None)


class Fits:
    returncode = 0


@pytest.mark.django_db
def test_another_worker_computes_a_survey_as_the_first_did(folder, technician, element):
    room.survey(technician, element, days_ago=30)
    remembered._kept.cache_clear()
    survey = actions.start_survey(technician, element, room.header(grid="known"), [])
    first = compute_survey(survey)
    assert len(list(folder.iterdir())) == 1
    computed = []
    # Another worker has nothing of its own and must not compute it anew.
    remembered._kept.cache_clear()
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(remembered, "keep", lambda *of: computed.append(of))
        again = compute_survey(survey)
    assert computed == []
    assert again.kept is not first.kept
    assert again.decision.next_point == first.decision.next_point
    assert again.decision.probability_within == first.decision.probability_within
    assert again.mean_true_c == pytest.approx(first.mean_true_c, abs=1e-5)
