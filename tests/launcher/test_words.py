"""The launcher as a program: from anywhere, by any name, one clear line when wrong."""

import json
import os
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]
EXAMPLE = ROOT / "tests" / "core" / "examples" / "commands" / "setpoint.input.json"


def run(*arguments, cwd=ROOT, stdin=None, program=ROOT / "tempermark"):
    return subprocess.run(
        [str(program), *map(str, arguments)], cwd=cwd, input=stdin, capture_output=True, text=True
    )


def test_from_any_directory_through_a_link_with_a_space(tmp_path):
    link = tmp_path / "temper mark"
    link.symlink_to(ROOT / "tempermark")
    done = run("setpoint", EXAMPLE, cwd=tmp_path, program=link)
    assert done.returncode == 0
    assert json.loads(done.stdout)["gain"] == pytest.approx(1.05, abs=0.1)


def test_standard_input_and_batch_with_a_bad_line():
    good = json.dumps(json.loads(EXAMPLE.read_text()))
    assert json.loads(run("setpoint", "-", stdin=good).stdout)["gain"]
    done = run("setpoint", "-", "--batch", stdin=f"{good}\n{{\n\n{good}\n")
    lines = [json.loads(line) for line in done.stdout.splitlines()]
    assert done.returncode == 0
    assert [("error" in line) for line in lines] == [False, True, False]


@pytest.mark.parametrize("arguments", [("setpoint", "/nowhere.json"), ("setpoint",)])
def test_a_bad_call_is_an_error_object(arguments):
    done = run(*arguments)
    assert (done.returncode, done.stdout) == (2, "")
    assert json.loads(done.stderr)["error"]["message"]


def test_unknown_words_get_the_list():
    done = run("brew")
    assert done.returncode == 2
    assert "“brew” is no word of tempermark" in done.stderr
    assert "demo [--reset]" in done.stderr


def test_without_rights_one_line_says_what_to_install(tmp_path):
    """A machine without the server, seen by a caller who may not install."""
    code = (
        "from launcher import system; system._root_prefix = lambda: None\n"
        "system.postgres_bin = lambda: None\n"
        "import os; os.geteuid = lambda: 1000\n"
        "from launcher.say import Stop\n"
        "try: system.need_postgres()\n"
        "except Stop as stop: print(stop)\n"
    )
    told = subprocess.run(
        ["python3", "-c", code],
        cwd=tmp_path,
        env={**os.environ, "PYTHONPATH": str(ROOT)},
        capture_output=True,
        text=True,
    )
    assert told.stdout.strip().endswith("apt-get install postgresql")
    assert len(told.stdout.strip().splitlines()) == 1
