"""What a ladder sheet answers, in a sentence with its numbers."""

from tempermark.core.experiments.arms import ArmsResult
from tempermark.core.experiments.sheet import LadderAnswer
from tempermark.web.experiments.models import Experiment
from tempermark.web.kit.figures import chance_text, temperature_number, temperature_text
from tempermark.web.kit.units import Units

# Spans that a dial or a timer does not tell apart are one setting.
SAME_K, SAME_S = 0.6, 1.0
UNDECIDED = 0.8
HALF = 0.5


def answer_text(experiment: Experiment, found: LadderAnswer, tested: int, units: Units) -> str:
    """`201–206 °C at 50 s on Heron, 90 % likely good; two more presses would halve the doubt.`"""
    best = found.result.best
    press = experiment.element.press.name
    chance = chance_text(best.chance)
    if found.result.stops and best.chance < HALF:
        return (
            f"No setting of this window is likely to be good on {press}: {chance} at best. "
            "Widen the window, or look at the stack."
        )
    dials = dials_text(found.dials_c, units)
    known = "by the physics alone" if not tested else f"after {_presses(tested)}"
    return f"{dials} at {best.time_s:.0f} s on {press}: {chance} likely good {known}."


def dials_text(dials_c: tuple[float, float], units: Units) -> str:
    """`201–206 °C`, or one setting."""
    low, high = dials_c
    if high - low <= SAME_K:
        return temperature_text(high, units)
    return f"{temperature_number(low, units)}–{temperature_text(high, units)}"


def more_text(found: LadderAnswer) -> str:
    """What more presses would bring, or that another blank is not worth it."""
    if found.result.stops:
        return "Another blank is not worth it."
    if found.more_to_halve is None:
        return "The next press confirms it; more would change little."
    more = found.more_to_halve
    return f"{_presses(more).capitalize()} more would halve what is still in doubt."


def _presses(count: int) -> str:
    numbers = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten")
    shown = numbers[count] if count < len(numbers) else str(count)
    return f"{shown} press{'' if count == 1 else 'es'}"


def arms_text(factor: str, found: ArmsResult | None) -> str:
    """Which arm is better, by how much and how sure."""
    if found is None:
        return "Score two arms at least: then the sheet says which is better."
    first = found.differences[0]
    sure = chance_text(first.chance)
    of = f" ({factor})" if factor else ""
    steps = f"{first.difference:.1f} step{'' if 0.95 <= first.difference < 1.05 else 's'}"
    if first.chance < UNDECIDED:
        return f"{first.better} and {first.worse} are alike so far{of}: {sure} for the first."
    return f"{first.better} scores {steps} better than {first.worse}{of}, {sure} sure."
