"""The JSON commands inside one process: answers, errors, batches."""

import io
import json

import pytest

from tempermark.cli.__main__ import COMMANDS, main
from tests.support.examples import CASES, load
from tests.support.examples import COMMANDS as EXAMPLES

SURVEY = EXAMPLES / "survey.input.json"


def feed(monkeypatch, text):
    monkeypatch.setattr("sys.stdin", io.TextIOWrapper(io.BytesIO(text.encode())))


def test_a_file_and_standard_input_give_the_same(capsys, monkeypatch):
    assert main(["survey", str(SURVEY)]) == 0
    first = capsys.readouterr().out
    feed(monkeypatch, SURVEY.read_text())
    assert main(["survey", "-"]) == 0
    assert capsys.readouterr().out == first
    assert json.loads(first)["verdict"] in ("pass", "fail", "undecided")


@pytest.mark.parametrize(
    ("arguments", "code"),
    [
        ([], "unknown_command"),
        (["brew", "x"], "unknown_command"),
        (["survey"], "usage"),
        (["survey", "a", "b"], "usage"),
        (["survey", "/nowhere/at/all.json"], "no_file"),
        (["survey", "/"], "no_file"),
    ],
)
def test_wrong_calls(capsys, arguments, code):
    assert main(arguments) == 2
    told = capsys.readouterr()
    assert told.out == ""
    assert json.loads(told.err)["error"]["code"] == code


def test_batch_keeps_going_and_keeps_order(capsys, monkeypatch):
    cases = [load(p)["input"] for p in sorted(CASES.glob("*.json"))]
    lines = [json.dumps(c) for c in cases]
    feed(monkeypatch, "\n".join([*lines[:3], "{", '{"format": "x"}', "", *lines[3:]]))
    assert main(["diagnose", "-", "--batch"]) == 0
    answers = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert len(answers) == len(cases) + 2
    assert [i for i, a in enumerate(answers) if "error" in a] == [3, 4]
    alone = []
    for line in lines:
        feed(monkeypatch, line)
        main(["diagnose", "-"])
        alone.append(json.loads(capsys.readouterr().out))
    assert answers[:3] + answers[5:] == alone


@pytest.mark.parametrize("command", COMMANDS)
@pytest.mark.parametrize("text", ["", "[]", "null", "{}", '{"format":1}', "\ufeff{}", '"x"'])
def test_no_input_brings_a_traceback(capsys, monkeypatch, command, text):
    feed(monkeypatch, text)
    assert main([command, "-"]) == 2
    error = json.loads(capsys.readouterr().err)["error"]
    assert set(error) >= {"code", "path", "message"}
