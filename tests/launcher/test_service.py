"""The systemd unit, and the copy of the sources that a room runs from."""

import configparser
import shutil
import subprocess
import sys

import pytest

from launcher import paths, pinned, server
from launcher.__main__ import main
from launcher.environment import clean_environment
from launcher.service import unit


def read(text):
    parser = configparser.ConfigParser(strict=False, interpolation=None)
    parser.optionxform = str
    parser.read_string(text)
    return parser


def test_the_unit_starts_the_room_of_this_checkout(capsys):
    assert main(["service", "--lan", "--name", "press-room"]) == 0
    found = read(capsys.readouterr().out)
    program, _, rest = found["Service"]["ExecStart"].rpartition("tempermark")
    assert program.strip('"') == f"{paths.ROOT}/"
    assert rest.strip('"').split() == ["serve", "--lan", "--name", "press-room"]
    assert found["Service"]["Restart"] == "on-failure"


def test_a_folder_with_spaces_and_signs_of_systemd_is_escaped(monkeypatch, tmp_path):
    folder = tmp_path / "50% of $it"
    folder.mkdir()
    monkeypatch.setattr(paths, "ROOT", folder)
    assert '50%% of $$it/tempermark" serve' in read(unit([]))["Service"]["ExecStart"]


def test_a_unit_that_serve_would_refuse_is_not_printed(capsys):
    assert main(["service", "--port", "80"]) == 1
    assert capsys.readouterr().out == ""


@pytest.mark.skipif(not shutil.which("systemd-analyze"), reason="no systemd here to verify it")
def test_systemd_accepts_the_unit(tmp_path):
    file = tmp_path / "tempermark.service"
    file.write_text(unit([]))
    done = subprocess.run(["systemd-analyze", "verify", str(file)], capture_output=True, text=True)
    assert "tempermark.service:" not in done.stderr


@pytest.fixture
def checkout(monkeypatch, tmp_path):
    """A small checkout of its own."""
    (tmp_path / "src").mkdir()
    (tmp_path / "src" / "answer.py").write_text("ANSWER = 'first'\n")
    monkeypatch.setattr(paths, "ROOT", tmp_path)
    monkeypatch.setattr(paths, "LOCAL", tmp_path / ".local")
    monkeypatch.setenv(paths.SOURCE_VARIABLE, "")
    return tmp_path


def answer():
    code = "import answer; print(answer.ANSWER)"
    done = subprocess.run(
        [sys.executable, "-c", code], env=clean_environment(), capture_output=True, text=True
    )
    return done.stdout.strip()


def test_what_is_checked_out_meanwhile_waits_for_the_next_start(checkout):
    pinned.pin()
    (checkout / "src" / "answer.py").write_text("ANSWER = 'second'\n")
    assert answer() == "first"
    assert paths.static().parent == paths.source().parent
    pinned.pin()
    assert answer() == "second"


def test_copies_that_nobody_runs_from_are_deleted(checkout, monkeypatch):
    pinned.pin()
    first = paths.source().parent.name
    (checkout / "src" / "answer.py").write_text("ANSWER = 'second'\n")
    monkeypatch.setattr(
        server, "noted", lambda room: {"version": first} if room == "serve" else None
    )
    pinned.pin()
    assert len(list((paths.LOCAL / "versions").iterdir())) == 2
    monkeypatch.setattr(server, "noted", lambda room: None)
    pinned.pin()
    assert [p.name for p in (paths.LOCAL / "versions").iterdir()] == [paths.source().parent.name]
