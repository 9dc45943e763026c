"""The worked examples, kept in the repo so that the tests stand alone."""

import json
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
COMMANDS = ROOT / "tests" / "core" / "examples" / "commands"
CASES = ROOT / "tests" / "core" / "examples" / "cases"
OWN_CASES = ROOT / "tests" / "core" / "cases"


def load(path: Path):
    """A JSON file."""
    return json.loads(path.read_text())


def command_examples() -> list[str]:
    """Names of the worked command examples."""
    return sorted(p.name.removesuffix(".input.json") for p in COMMANDS.glob("*.input.json"))
