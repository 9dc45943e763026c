"""A server that lives but no longer answers is ended, not left on its port."""

import json
import subprocess
import sys

from launcher import paths, server


def started(code):
    """A process that is already what it will be."""
    process = subprocess.Popen(
        [sys.executable, "-u", "-c", f"print('here');{code}"], stdout=subprocess.PIPE
    )
    assert process.stdout.readline() == b"here\n"
    return process


def test_a_server_that_does_not_answer_is_no_running_one_but_is_stopped(tmp_path, monkeypatch):
    monkeypatch.setattr(paths, "LOCAL", tmp_path)
    code = "import time; time.sleep(60)  # gunicorn"
    process = started(code)
    try:
        note = {"pid": process.pid, "url": "http://127.0.0.1:9"}
        server.state_file("demo").write_text(json.dumps(note))
        assert server.noted("demo") == note
        assert server.running("demo") is None
        assert server.stop_noted("demo")
        assert process.wait(5) != 0
        assert not server.state_file("demo").exists()
        assert not server.stop_noted("demo")
    finally:
        process.kill()
        process.communicate()


def test_a_note_whose_number_is_somebody_elses_now_stops_nothing(tmp_path, monkeypatch):
    monkeypatch.setattr(paths, "LOCAL", tmp_path)
    process = started("import time; time.sleep(60)")
    try:
        note = {"pid": process.pid, "url": "http://127.0.0.1:9"}
        server.state_file("demo").write_text(json.dumps(note))
        assert not server.stop_noted("demo")
        assert process.poll() is None
    finally:
        process.kill()
        process.communicate()
