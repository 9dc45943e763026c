"""A pressure knob learned: lift per turn, which way tightens, zero, and where to turn it.

Equation: turns at first contact = zero + shim/lift.
Range: shims that differ by 0.5 mm and more, lifts of 0.05 to 20 mm a turn.
Source: least squares; handbook 3, “Pressure”.
"""

from dataclasses import dataclass

import numpy as np

from tempermark.core.errors import InputError, Problem
from tempermark.core.phrases import Text, length, phrase
from tempermark.core.pressure.press.contact import Range
from tempermark.core.pressure.press.spring import SpringPad

CLOCKWISE, COUNTERCLOCKWISE = "clockwise", "counterclockwise"
OPPOSITE = {CLOCKWISE: COUNTERCLOCKWISE, COUNTERCLOCKWISE: CLOCKWISE}
# A knob is set and read to about an eighth of a turn: standard a sixteenth.
STEP_TURNS = 0.125
TURN_SD = STEP_TURNS / 2
# "Just touches" by a paper strip is found to about this, mm (standard).
TOUCH_SD_MM = 0.05
# A knob that lifts less hardly moves, one that lifts more is no knob.
LIFT_RANGE_MM = (0.05, 20.0)
FEWEST_SHIMS = 2
# Shims that hardly differ teach nothing.
LEAST_SHIM_SPAN_MM = 0.5
# A line whose points are off by more than this many standard deviations is no line.
STRANGE = 3.5
DRAWS, SEED = 4000, 5


@dataclass(frozen=True)
class Knob:
    """A knob: mm the platen comes down in a turn, and the direction that brings it down.

    `zero_clockwise` is where the knob stood, in turns clockwise of its mark, when the closed
    platen just touched the empty pad (None while unknown). Positions are turns tightened from it.
    """

    lift_mm_per_turn: float
    tightens: str
    lift_sd_mm: float = 0.0
    zero_clockwise: float | None = None
    zero_sd_turns: float = 0.0
    residual_turns: float = 0.0

    @property
    def sense(self) -> int:
        """+1 when clockwise tightens, −1 when it loosens."""
        return 1 if self.tightens == CLOCKWISE else -1

    def rotation(self, turns: float) -> str:
        """Which way to turn for `turns` of tightening (negative: loosening), or `none`."""
        if turns == 0:
            return "none"
        return self.tightens if turns > 0 else OPPOSITE[self.tightens]


def learn_knob(shim_mm: np.ndarray, clockwise_turns: np.ndarray) -> Knob:
    """A knob from shims (n,) in mm and where it just touched each, (n,) turns clockwise.

    Touching a shim of thickness t means lift · tightened + t = 0, so the clockwise turns are a
    straight line in t: its slope gives lift and direction, its value at t = 0 the zero of the
    empty press. Least squares; with three shims or more the scatter tells its own size, never
    taken below what reading a knob allows. Raises InputError for too few or equal shims, or a
    knob that did not move.
    """
    _check(shim_mm, clockwise_turns)
    middle = shim_mm.mean()
    away = shim_mm - middle
    slope = float(away @ clockwise_turns / (away @ away))
    lift = 1.0 / abs(slope) if slope else np.inf
    if not LIFT_RANGE_MM[0] <= lift <= LIFT_RANGE_MM[1]:
        raise InputError.single("turns", _no_lift(slope, lift), "no_lift")
    fitted = clockwise_turns.mean() + slope * away
    residual = clockwise_turns - fitted
    expected = np.hypot(TURN_SD, TOUCH_SD_MM / lift)
    degrees_of_freedom = len(shim_mm) - 2
    seen = float(np.sqrt(residual @ residual / degrees_of_freedom)) if degrees_of_freedom else 0.0
    if seen > STRANGE * expected:
        worst = int(np.abs(residual).argmax())
        raise InputError.single(
            f"turns[{worst}]",
            phrase(
                "With the {shim} shim the knob is {off} turns off the line of the others: count it "
                "again, or leave it out.",
                shim=length(float(shim_mm[worst])),
                off=f"{abs(residual[worst]):.2g}",
            ),
            "no_line",
        )
    sd = max(seen, float(expected))
    slope_sd = sd / np.sqrt(away @ away)
    zero_sd = sd * np.sqrt(1 / len(shim_mm) + middle**2 / (away @ away))
    return Knob(
        lift_mm_per_turn=lift,
        # A thicker shim touches after loosening: turned clockwise for it, clockwise loosens.
        tightens=COUNTERCLOCKWISE if slope > 0 else CLOCKWISE,
        lift_sd_mm=float(slope_sd * lift**2),
        zero_clockwise=float(clockwise_turns.mean() - slope * middle),
        zero_sd_turns=float(zero_sd),
        residual_turns=seen,
    )


def _check(shim_mm: np.ndarray, turns: np.ndarray) -> None:
    problems = []
    if len(shim_mm) < FEWEST_SHIMS:
        problems.append(Problem("shims", f"{len(shim_mm)} shim is too few: two at least."))
    elif np.ptp(shim_mm) < LEAST_SHIM_SPAN_MM:
        problems.append(
            Problem(
                "shims",
                phrase(
                    "The shims differ by only {span}: at least {least} is needed for a lift.",
                    span=length(float(np.ptp(shim_mm)), 2),
                    least=length(LEAST_SHIM_SPAN_MM),
                ),
            )
        )
    if (np.asarray(shim_mm) < 0).any():
        problems.append(Problem("shims", "A shim cannot be thinner than nothing."))
    if problems:
        raise InputError(problems)


def _no_lift(slope: float, lift: float) -> Text:
    if slope == 0 or lift > LIFT_RANGE_MM[1]:
        return (
            "The knob was at the same place for every shim, so no lift per turn follows. "
            "Turn until the strip just drags at each shim, and count from one mark."
        )
    return phrase(
        "That is {lift} a turn, less than any real knob lifts (from {least}): check the turns.",
        lift=length(lift, 2),
        least=length(LIFT_RANGE_MM[0]),
    )


def turns_for_change(lift_mm_per_turn: float, from_mm: float, to_mm: float) -> float:
    """Turns of tightening (negative: loosening) that keep the pressure when a stack changes.

    turns = −Δthickness ÷ lift (handbook 1 §3). From 1.0 to 3.4 mm at 1.5 mm a turn: −1.6.
    """
    return (from_mm - to_mm) / lift_mm_per_turn


def position_for(knob: Knob, pad: SpringPad, stack_mm: float, contact_kpa: float) -> float:
    """Where a knob stands, to an eighth of a turn, for a stack and a mean contact pressure.

    Rounded as a place, not as a move: going to another stack and back ends where it began.
    """
    compression = float(pad.compression_mm(contact_kpa))
    exact = (compression - stack_mm) / knob.lift_mm_per_turn
    return float(np.round(exact / STEP_TURNS) * STEP_TURNS)


def contact_at(
    knob: Knob, pad: SpringPad, position_turns: float, stack_mm: float, stack_sd_mm: float = 0.1
) -> Range:
    """Mean contact pressure in kPa with the knob at a position and a stack between the platens.

    The interval (2.5 to 97.5 %) carries the knob's lift and zero, the turn as set, the stack's
    thickness and the pad's stiffness, by the same draws every time.
    """
    rng = np.random.default_rng(SEED)
    lift = knob.lift_mm_per_turn + knob.lift_sd_mm * rng.standard_normal(DRAWS)
    turned = position_turns + np.hypot(knob.zero_sd_turns, TURN_SD) * rng.standard_normal(DRAWS)
    stack = stack_mm + stack_sd_mm * rng.standard_normal(DRAWS)
    stiffness = np.exp(pad.quarter_sd_share * rng.standard_normal(DRAWS))
    drawn = pad.pressure_kpa(lift * turned + stack) * stiffness
    value = pad.pressure_kpa(knob.lift_mm_per_turn * position_turns + stack_mm)
    low, high = np.quantile(drawn, (0.025, 0.975))
    return Range(float(value), float(low), float(high))
