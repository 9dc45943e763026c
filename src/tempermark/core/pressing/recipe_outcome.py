"""How a recipe comes out at a true temperature, dwell and pressure, its earlier steps done."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tempermark.core.phrases import Text, phrase, pressure, temperature
from tempermark.core.pressing.chain import press_chain
from tempermark.core.pressing.closing import PressResult
from tempermark.core.pressing.limits import beyond_heat, is_overloaded
from tempermark.core.pressing.request import (
    USUAL_HUMIDITY,
    BlankProperties,
    main_request,
    shipped_blank,
)
from tempermark.core.pressing.verdict import PieceVerdict, verdict_of
from tempermark.core.recipes.steps import Sheet
from tempermark.core.thermal.result.dye import UNTAUGHT
from tempermark.core.thermal.result.sampled import Sampled, sample


@dataclass(frozen=True)
class RecipeOutcome:
    """The piece, its verdict, draws over what is known of it (None without), and notes."""

    pressed: PressResult
    verdict: PieceVerdict
    drawn: Sampled | None
    notes: tuple[Text, ...]

    def interval(self, name: str) -> tuple[float, float] | None:
        """The middle 90 % of `density` or `bond`; None without draws."""
        if self.drawn is None:
            return None
        return self.drawn.interval(getattr(self.drawn.outcome, name))


def recipe_outcome(
    sheet: Sheet,
    true_c: float,
    time_s: float,
    kpa: float | None = None,
    humidity: float = USUAL_HUMIDITY,
    polyester: float | None = None,
    draws: bool = True,
    school: str = "",
) -> RecipeOutcome:
    """A shipped recipe on the blank it is written for: true °C held with the platen's usual
    recovery, s, kPa (the recipe's class unless given), humidity 0–1, and another share of polyester
    of a cloth.
    """
    blank = shipped_blank(sheet.blank)
    if polyester is not None and blank.polyester is not None:
        blank = replace(blank, polyester=polyester)
    changes: dict[str, Any] = {"true_c": true_c, "dwell_s": time_s, "humidity": humidity}
    if kpa is not None:
        changes["kpa"] = kpa
    pressed = press_chain(sheet, school, main_request(sheet, blank, school, **changes)).main
    if pressed is None:
        raise ValueError(f"Nothing in the stack of {sheet.name} receives heat.")
    drawn = None
    if draws:
        known = pressed.receiver.known if pressed.receiver else UNTAUGHT
        drawn = sample(pressed.closing, pressed.piece, 0.0, known)
    return RecipeOutcome(pressed, verdict_of(pressed), drawn, tuple(_notes(blank, pressed)))


def _notes(blank: BlankProperties, pressed: PressResult) -> Iterator[Text]:
    limit = beyond_heat(blank, pressed.request.true_c)
    if limit is not None:
        yield phrase(
            "{true} is far beyond the {limit} at which a minute marks {blank}",
            true=temperature(pressed.request.true_c, 0),
            limit=temperature(limit, 0),
            blank=blank.name,
        )
    if is_overloaded(blank, pressed.request.kpa):
        yield phrase(
            "{given} is over the {limit} that {blank} withstands",
            given=pressure(pressed.request.kpa),
            limit=pressure(blank.limit_kpa or 0.0),
            blank=blank.name,
        )


def window_points(sheet: Sheet, school: str = "") -> dict[str, tuple[float, float]]:
    """The middle of a recipe's window and its corners, as (true °C, s): `centre`, `weak` (cool and
    short), `cool_long`, `hot_short` and `strong`.
    """
    main = sheet.main_by(school)
    if main.temperature_c is None or main.time_s is None:
        raise ValueError(f"{sheet.name} has no window for its main press.")
    (cool, hot), (short, long) = main.temperature_c, main.time_s
    return {
        "centre": (float(np.mean(main.temperature_c)), float(np.mean(main.time_s))),
        "weak": (cool, short),
        "cool_long": (cool, long),
        "hot_short": (hot, short),
        "strong": (hot, long),
    }
