"""The worked examples of the commands reproduce, each to its stated agreement."""

import importlib

import pytest

from tempermark.cli.__main__ import COMMANDS
from tests.support import examples


def agree(given, expected, path=""):
    if isinstance(expected, dict):
        for key, value in expected.items():
            agree(given[key], value, f"{path}.{key}")
    elif isinstance(expected, list) and expected and isinstance(expected[0], dict):
        assert len(given) == len(expected), path
        for i, row in enumerate(expected):
            agree(given[i], row, f"{path}[{i}]")
    elif isinstance(expected, float | int) and not isinstance(expected, bool):
        tolerance = 0.06 if path.endswith("area_fraction") else max(0.001 * abs(expected), 1e-3)
        assert given == pytest.approx(expected, abs=tolerance), path
    else:
        assert given == expected, path


@pytest.mark.parametrize("name", examples.command_examples())
def test_example_reproduces(name):
    answer = importlib.import_module(COMMANDS[name.split("_")[0]]).answer
    document = examples.load(examples.COMMANDS / f"{name}.input.json")
    agree(answer(document), examples.load(examples.COMMANDS / f"{name}.expected.json"))
