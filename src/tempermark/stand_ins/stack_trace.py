"""A thermocouple under a stack that is not there: its trace over one closing, as lines of seconds
and °C.

`python -m tempermark.stand_ins.stack_trace > trace.csv` makes one; the demo and tests use
`trace_under`. The stack's contacts are worse and its sheets drier than the library says: that is
what is to be learned.
"""

import argparse
from dataclasses import replace

import numpy as np

from tempermark.core.thermal.library.materials import materials
from tempermark.core.thermal.solver import closing as press
from tempermark.core.thermal.solver.closing import Closing

VEST = ("parchment", "transfer_paper", "polyester_jersey", "plain_paper", "silicone_pad")
UNDER_TRANSFER = 1
INTERVAL_S, NOISE_K = 0.5, 0.6
ROOM_C, HUMIDITY = 22.0, 0.5


def trace_under(
    rng: np.random.Generator,
    true_c: float = 200.0,
    dwell_s: float = 50.0,
    kpa: float = 32.0,
    contact_factor: float = 1.9,
    sheet_factor: float = 0.92,
    stack: tuple[str, ...] = VEST,
) -> tuple[np.ndarray, np.ndarray]:
    """Times (t,) in s and what the couple shows (t,) in °C."""
    library = materials()
    layers = [library[name].layer(HUMIDITY) for name in stack]
    for n in range(UNDER_TRANSFER + 1):
        conducts = layers[n].conductivity_w_mk * sheet_factor
        layers[n] = replace(layers[n], conductivity_w_mk=conducts)
    closing = Closing(
        layers,
        ROOM_C,
        dwell_s,
        np.array([true_c]),
        np.array([ROOM_C]),
        pressure_kpa=np.array([kpa]),
        contact_factor=contact_factor,
    )
    times = np.arange(INTERVAL_S, dwell_s + 1e-9, INTERVAL_S)
    face = press.at_times(press.press(closing), times)[:, 0, UNDER_TRANSFER]
    return times, face + NOISE_K * rng.standard_normal(len(times))


def main() -> None:
    """Print one."""
    parser = argparse.ArgumentParser(description="Print a simulated trace: seconds, °C.")
    parser.add_argument("--true-c", type=float, default=200.0)
    parser.add_argument("--dwell-s", type=float, default=50.0)
    parser.add_argument("--contact-kpa", type=float, default=32.0)
    parser.add_argument("--contact-factor", type=float, default=1.9)
    parser.add_argument("--sheet-factor", type=float, default=0.92)
    parser.add_argument("--seed", type=int, default=1)
    query = parser.parse_args()
    times, shown = trace_under(
        np.random.default_rng(query.seed),
        query.true_c,
        query.dwell_s,
        query.contact_kpa,
        query.contact_factor,
        query.sheet_factor,
    )
    print("s, °C")
    for at, value in zip(times, shown, strict=True):
        print(f"{at:.1f}, {value:.1f}")


if __name__ == "__main__":
    main()
