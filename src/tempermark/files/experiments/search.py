"""tempermark.search/1: scored test presses so far → the next one, the best setting, how sure."""

from typing import Any

from tempermark.core.constants import DWELL_LIMIT_S, TEMPERATURE_RANGE_C
from tempermark.core.experiments.search import (
    ALIKE,
    GoodChance,
    ScoredPress,
    SearchResult,
    search,
)
from tempermark.core.experiments.surface import RECIPE_OF, TABLE_C, TABLE_S, surface
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES
from tempermark.files.document import Fields, read_format

FORMAT = "tempermark.search/1"
MOST_TESTED = 60
# Displays err by no more, K; some error has every one.
DISPLAY_RANGE_K = (0.2, 40.0)
# Cloth with less polyester is weak even when it is full (handbook 3).
WEAK_CLOTH = 0.65


def answer(data: object) -> dict[str, Any]:
    """The command: document in, document out."""
    fields = read_format(data, FORMAT)
    receiver = fields.choice("receiver", tuple(RECIPE_OF))
    polyester = fields.number("polyester", 0, 1, default=1.0)
    warm: Any = fields.window("temperature_c", *TEMPERATURE_RANGE_C, unit=" °C")
    dwell: Any = fields.window("time_s", 0, DWELL_LIMIT_S, unit=" s")
    pressure = fields.choice("pressure", PRESSURE_CLASSES, default="medium")
    display = fields.number("display_uncertainty_c", 0, 100, unit=" K", default=6.0)
    tested = [_tested(row) for row in fields.objects("tested", 0, MOST_TESTED, default=[])]
    fields.done()
    within_k = min(max(display, DISPLAY_RANGE_K[0]), DISPLAY_RANGE_K[1])
    found = search(surface(receiver, pressure), warm, dwell, tested, within_k / 2)
    return {
        "next": _next(found),
        "best": _setting(found.best),
        "stop": found.stops,
        "region": [_setting(one) for one in found.region],
        "notes": _notes(found, receiver, polyester, warm, dwell),
    }


def _tested(row: Fields) -> ScoredPress:
    return ScoredPress(
        row.temperature("set_c"),
        row.number("time_s", 0, DWELL_LIMIT_S, unit=" s", above=True),
        _score(row, "density_score"),
        _score(row, "overdone_score"),
    )


def _score(row: Fields, key: str) -> int | None:
    """A person's score, 1 to 5; None where it was not given."""
    value = row.number(key, 1, 5, default=None)
    if value is not None and value != int(value):
        row.problem(key, f"is {value:g}; whole steps from 1 to 5 are needed")
        return None
    return None if value is None else int(value)


def _setting(one: GoodChance) -> dict[str, float]:
    return {
        "set_c": round(one.set_c, 2),
        "time_s": round(one.time_s, 2),
        "probability_good": round(one.chance, 4),
    }


def _next(found: SearchResult) -> dict[str, Any]:
    """The next press; once another blank is not worth it, the best setting itself."""
    press = found.next_press or found.best
    return {
        "set_c": round(press.set_c, 2),
        "time_s": round(press.time_s, 2),
        "because": _because(found, press),
    }


def _because(found: SearchResult, press: GoodChance) -> str:
    chance = _percent(press.chance)
    if found.next_press is None:
        return f"Another blank is not worth it: {chance} likely to come out well."
    if press.chance >= found.best.chance - ALIKE:
        return f"{chance} likely to come out well; a piece that does confirms the setting."
    return (
        f"{chance} likely to come out well itself; after it the best setting is "
        f"{_percent(found.gain)} more likely to be good, averaged over what it may show."
    )


def _percent(share: float) -> str:
    return f"{share:.0%}".replace("%", " %")


def _notes(
    found: SearchResult,
    receiver: str,
    polyester: float,
    warm: tuple[float, float],
    dwell: tuple[float, float],
) -> list[str]:
    notes = []
    if found.contradicts:
        notes.append("The scores contradict each other, or the stack is not the usual one.")
    if receiver == "cloth" and polyester < WEAK_CLOTH:
        notes.append("Cloth with so little polyester is weak even when it is full.")
    if warm[0] < TABLE_C[0] or warm[1] > TABLE_C[1] or dwell[1] > TABLE_S[1]:
        notes.append("Part of the window is outside the validated range, 120–250 °C and 600 s.")
    if found.stops and found.best.chance < 0.5:
        notes.append("No setting of this window is likely to be good: widen it.")
    return notes
