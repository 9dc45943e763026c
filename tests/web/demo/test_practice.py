"""The practice room: opened beside a shop's own, and thrown away."""

import subprocess
import sys

import pytest

from tempermark.web.demo import practice
from tests.support import room


@pytest.fixture
def launcher(tmp_path, settings):
    """A stand-in for the launcher: it keeps what it was called with and waits."""
    (tmp_path / ".local").mkdir()
    script = tmp_path / "launcher"
    # Through a shell: the path of our Python may have a space in it.
    script.write_text(f'#!/bin/sh\nexec "{sys.executable}" "$0.py" "$@"\n')
    (tmp_path / "launcher.py").write_text(
        "import sys, time, pathlib, os\n"
        "here = pathlib.Path(__file__).parent\n"
        "(here / 'called').open('a').write(' '.join(sys.argv[1:]) + '\\n')\n"
        "(here / 'environment').write_text('\\n'.join(os.environ))\n"
        "print('Preparing the database', flush=True)\n"
        "time.sleep(0 if '--discard' in sys.argv else 30)\n"
    )
    script.chmod(0o755)
    settings.LAUNCHER, settings.DEMO = str(script), False
    yield tmp_path
    subprocess.run(["pkill", "-f", str(script)], check=False)


def called(launcher):
    return (launcher / "called").read_text().splitlines()


def wait_for(condition):
    for _ in range(200):
        if condition():
            return True
        subprocess.run(["sleep", "0.05"], check=True)
    return False


def test_it_is_opened_once_and_its_progress_is_shown(browse, launcher):
    assert "Open a practice room" in room.words(browse.get("/practice/"))
    browse.post("/practice/start/")
    assert wait_for(lambda: "Preparing" in practice.state().progress)
    browse.post("/practice/start/")
    assert called(launcher) == ["practice --from http://testserver/"]
    fragment = browse.get("/practice/state/").content.decode()
    assert "Getting it ready" in fragment
    assert "Preparing the database" in fragment


def test_nothing_of_our_own_room_is_handed_to_it(browse, launcher, monkeypatch):
    monkeypatch.setenv("TEMPERMARK_DB_PASSWORD", "ours")
    browse.post("/practice/start/")
    assert wait_for((launcher / "environment").exists)
    assert "TEMPERMARK_DB_PASSWORD" not in (launcher / "environment").read_text()


def test_an_open_one_is_linked_and_thrown_away(browse, launcher):
    running = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(30)  # gunicorn"])
    note = launcher / ".local" / "running-practice.json"
    note.write_text(f'{{"pid": {running.pid}, "url": "http://127.0.0.1:8641"}}')
    try:
        page = room.soup(browse.get("/practice/"))
        assert page.select_one("a.go")["href"] == "http://127.0.0.1:8641"
    finally:
        running.kill()
        running.wait()
    response = browse.post("/practice/discard/", follow=True)
    assert called(launcher) == ["practice --discard"]
    assert "The practice room is gone" in room.words(response)


def test_a_start_that_ended_says_why(browse, launcher):
    (launcher / ".local" / "practice-start.log").write_text("Port 8641 is in use.\n")
    ended = subprocess.Popen([sys.executable, "-c", ""])
    ended.wait()
    (launcher / ".local" / "practice-start.pid").write_text(str(ended.pid))
    assert "It did not start: Port 8641 is in use." in room.words(browse.get("/practice/"))


@pytest.mark.parametrize("note", ["", "[]", "{}", '{"pid": "x", "url": "u"}', '{"pid": 0'])
def test_a_broken_note_is_no_room(launcher, note):
    (launcher / ".local" / "running-practice.json").write_text(note)
    assert practice.state() == practice.PracticeRoom()


def test_a_demo_offers_none(browse):
    assert browse.get("/practice/").status_code == 404
    assert browse.post("/practice/start/").status_code == 404


def test_a_clerk_only_looks(client, launcher, db):
    client.force_login(room.person("tomke", "clerk"))
    assert client.post("/practice/start/").status_code == 403
    assert "Open a practice room" not in room.words(client.get("/practice/"))
