"""The JSON commands as whole processes, against starting Python with numpy."""

import json
import statistics
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
EXAMPLES = ROOT / "tests" / "core" / "examples"
REPEATS = 7
BATCH = 300


def run() -> None:
    """Median seconds of each command and its ratio to the bare start."""
    base = _median([sys.executable, "-c", "import numpy"])
    print(f"python with numpy: {base:.2f} s")
    for name in ("reading", "survey", "setpoint"):
        _tell(name, EXAMPLES / "commands" / f"{name}.input.json", base)
    case = json.loads(next(EXAMPLES.glob("cases/*.json")).read_text())["input"]
    file = ROOT / ".local" / "bench-case.json"
    file.write_text(json.dumps(case))
    _tell("diagnose", file, base)
    lines = ROOT / ".local" / "bench-cases.jsonl"
    lines.write_text("\n".join([json.dumps(case)] * BATCH))
    batch = _median([str(ROOT / "tempermark"), "diagnose", str(lines), "--batch"], repeats=3)
    print(f"diagnose --batch: {BATCH / batch:.0f} cases a second")


def _tell(name: str, file: Path, base: float) -> None:
    taken = _median([str(ROOT / "tempermark"), name, str(file)])
    print(f"{name}: {taken:.2f} s, {taken / base:.1f} × the bare start")


def _median(command: list[str], repeats: int = REPEATS) -> float:
    times = []
    for _ in range(repeats):
        start = time.perf_counter()
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
        times.append(time.perf_counter() - start)
    return statistics.median(times)
