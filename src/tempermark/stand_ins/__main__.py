"""`python -m tempermark.stand_ins ADDRESS KEY …`: a simulated logger as a process of its own."""

import argparse
import os
import sys
import time
from uuid import uuid4

import numpy as np

from tempermark.stand_ins.heated_platen import AMBIENT_C, HeatedPlaten, Story
from tempermark.stand_ins.logger import INTERVAL_S, Logger

KEY_VARIABLE = "TEMPERMARK_LOGGER_KEY"


def main(arguments: list[str]) -> int:
    """Run until told to stop; the exit code says whether all was stored."""
    query = _parser().parse_args(arguments)
    key = os.environ.get(KEY_VARIABLE, "")
    if not key:
        print(f"Put the logger's key into {KEY_VARIABLE}.", file=sys.stderr)
        return 2
    story = Story(
        first_loading_s=None if query.no_loading else Story.first_loading_s,
        stuck_channel=None if query.no_faults else Story.stuck_channel,
        dropout_chance_per_s=0.0 if query.no_faults else Story.dropout_chance_per_s,
    )
    start_c = AMBIENT_C if query.cold else query.set_c - 25.0
    platen = HeatedPlaten(query.set_c, start_c, np.random.default_rng(query.seed), story)
    logger = Logger(query.address, key, uuid4(), clock_ahead_s=query.clock_ahead_s)
    _catch_up(platen, logger, query.already_min)
    return _run(platen, logger, query.minutes)


def _catch_up(platen: HeatedPlaten, logger: Logger, minutes: float) -> None:
    """Samples of the minutes before, as after a long lost connection."""
    count = round(minutes * 60 / INTERVAL_S)
    for left in range(count, 0, -1):
        platen.step(INTERVAL_S)
        logger.take(platen.sample(INTERVAL_S), ago_s=left * INTERVAL_S)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="simulate-logger")
    parser.add_argument("address")
    parser.add_argument(
        "--set-c", type=float, default=200.0, help="the simulated controller's dial"
    )
    parser.add_argument("--minutes", type=float, default=None, help="stop after; default: never")
    parser.add_argument(
        "--already-min", type=float, default=0.0, help="begin as if it had run for so long"
    )
    parser.add_argument("--cold", action="store_true", help="start at room temperature")
    parser.add_argument("--no-loading", action="store_true", help="nothing is pressed")
    parser.add_argument("--no-faults", action="store_true", help="no dropouts, no stuck channel")
    parser.add_argument("--clock-ahead-s", type=float, default=0.0, help="a wrong clock")
    parser.add_argument("--seed", type=int, default=1)
    return parser


def _run(platen: HeatedPlaten, logger: Logger, minutes: float | None) -> int:
    logger.start()
    started = time.monotonic()
    print("Sending nine channels, ten times a second. Ctrl-C ends it.", flush=True)
    began = time.monotonic() - logger.taken * INTERVAL_S
    try:
        while logger.refused is None:
            platen.step(INTERVAL_S)
            logger.take(platen.sample(INTERVAL_S))
            ahead_s = began + logger.taken * INTERVAL_S - time.monotonic()
            if minutes is not None and time.monotonic() - started >= minutes * 60:
                break
            time.sleep(max(0.0, ahead_s))
    except KeyboardInterrupt:
        print()
    if logger.refused is not None:
        return 1
    complete = logger.end()
    print(f"{logger.taken} samples taken, {logger.stored + 1} confirmed as stored.")
    return 0 if complete else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
