"""What to change, in numbers where numbers exist, computed for this press."""

from collections.abc import Callable
from dataclasses import dataclass, field

from tempermark.core.diagnosis.case import Case
from tempermark.core.diagnosis.knowledge.base import Cause
from tempermark.core.diagnosis.weighing.measures.piece import blank_growth_mm
from tempermark.core.metrology.press.dial import KnownDial, dial_setting
from tempermark.core.phrases import (
    Phrase,
    Quantity,
    Text,
    difference,
    duration,
    length,
    missing_values,
    phrase,
    temperature,
)
from tempermark.core.preparing.size.growth import PLACED_WITHIN_MM
from tempermark.core.recipes.windows import closings as split_dwell
from tempermark.core.thermal.result.dye import equal_dose_time_s
from tempermark.core.vocabulary.methods import DYE_METHODS, FILM_METHODS

# Long-and-lower for panels: this much under the window's middle (handbook 4, job 5).
LOWER_BY_C = 15.0
# More polyester than this gives its dye to a film when overheated (handbook 2).
MIGRATING_POLYESTER = 0.3
# Where in the window to aim: the middle; on dyed polyester under film its lower third.
MIDDLE, LOWER_THIRD = 0.5, 0.3

# Settings of a remedy by key, as the command `diagnose` gives them.
Settings = dict[str, object]


@dataclass(frozen=True)
class Remedy:
    """What to do, the settings it comes to, and what to mind."""

    text: Phrase
    settings: Settings
    cautions: tuple[Text, ...]


@dataclass
class Draft:
    """A remedy while it is put together: settings, values for the text, cautions."""

    settings: Settings = field(default_factory=dict)
    values: dict[str, Phrase | Quantity | str] = field(default_factory=dict)
    cautions: list[Text] = field(default_factory=list)


# Additions to a remedy's text that are left out where nothing is known.
ADDITIONS = (
    "turns_advice",
    "closings_advice",
    "long_lower_advice",
    "bleed_advice",
    "density_advice",
)


def remedy_for(cause: Cause, case: Case) -> Remedy:
    """The remedy of a cause in this case; without numbers where the case lacks them."""
    draft = Draft(values=dict.fromkeys(ADDITIONS, ""))
    for name in cause.settings:
        SETTINGS[name](case, draft)
    text = Phrase(cause.remedy, draft.values)
    if missing_values(text):
        text = Phrase(cause.remedy_open, draft.values)
    return Remedy(text, draft.settings, tuple(draft.cautions))


def remedy_in_general(cause: Cause) -> Phrase:
    """The remedy of a cause where no case is at hand: without numbers."""
    return Phrase(cause.remedy_open, dict.fromkeys(ADDITIONS, ""))


def target_temperature_c(case: Case) -> float | None:
    """True temperature to aim at in °C: what worked before, else the window's middle.

    On dyed polyester under film the lower third, so that the remedy does not bring dye
    migration.
    """
    window = case.recipe.temperature_c
    if case.worked_before.temperature_c is not None:
        return case.worked_before.temperature_c
    if window is None:
        return None
    return window[0] + (window[1] - window[0]) * (LOWER_THIRD if _is_migrating(case) else MIDDLE)


def _is_migrating(case: Case) -> bool:
    share = case.blank.polyester
    return (
        case.method in FILM_METHODS
        and case.blank.colour in ("mid", "dark")
        and (share is None or share >= MIGRATING_POLYESTER)
    )


def _dial_for(case: Case, target_c: float) -> float | None:
    """The dial for a true temperature, by what was measured and the press's gain."""
    actual = case.actual
    if actual.set_c is None or actual.measured_c is None:
        return None
    known = KnownDial(actual.set_c, actual.measured_c, case.press.gain)
    return dial_setting(target_c, known, case.press.resolution_c).set_c


def _temperature(case: Case, draft: Draft) -> None:
    target = target_temperature_c(case)
    set_c, measured_c = case.actual.set_c, case.actual.measured_c
    if target is None or set_c is None:
        return
    setting = _dial_for(case, target)
    if setting is None or measured_c is None:
        setting = float(round(target))
        draft.settings["unmeasured"] = True
        draft.values["display_error"] = "an unknown amount"
        draft.values["set_c"] = phrase(
            "{dial} (the press has not been surveyed: read it first)", dial=temperature(setting)
        )
    else:
        draft.values["display_error"] = difference(measured_c - set_c, 0, signed=True)
        draft.values["set_c"] = temperature(setting)
    draft.settings |= {"set_c": setting, "target_c": round(target, 1)}
    draft.values["target_c"] = temperature(target, 0)
    if _is_migrating(case):
        draft.cautions.append(
            "Coloured polyester: stay in the lower third of the window, or its dye migrates."
        )


def _move_or_raise(case: Case, draft: Draft) -> None:
    place, window = case.map_at_print, case.recipe.temperature_c
    if place.at_mark_c is None or window is None:
        return
    move: Text = "Move the art towards the middle"
    if place.usable_mm is not None:
        width, height = (length(side, 0) for side in place.usable_mm)
        text = "Move the art inside the marked {width} × {height}"
        move = phrase(text, width=width, height=height)
    dial = _shared_dial(case, window)
    if dial is None:
        text = "{move}. No setting brings the whole print into the window there."
        draft.values["place_advice"] = phrase(text, move=move)
        return
    draft.settings["set_c"] = dial
    text = "{move}, or keep the place and set {dial}."
    draft.values["place_advice"] = phrase(text, move=move, dial=temperature(dial))


def _shared_dial(case: Case, window: tuple[float, float]) -> float | None:
    """A dial that has coolest and hottest place of the print inside the window, if any."""
    place, set_c = case.map_at_print, case.actual.set_c
    if set_c is None:
        return None
    coolest = min(v for v in (place.coolest_c, place.at_mark_c) if v is not None)
    hottest = max(v for v in (place.hottest_c, place.at_mark_c) if v is not None)
    if hottest - coolest > window[1] - window[0]:
        return None
    known = KnownDial(set_c, (coolest + hottest) / 2, case.press.gain)
    return dial_setting(sum(window) / 2, known, case.press.resolution_c).set_c


def _dwell(case: Case, draft: Draft) -> None:
    window, worked = case.recipe.time_s, case.worked_before.time_s
    if worked is not None:
        time_s = worked
    elif window is not None:
        time_s = sum(window) / 2
    else:
        return
    draft.settings["time_s"] = round(time_s, 1)
    draft.values["time_s"] = duration(time_s)
    given = case.actual.time_s
    draft.values["actual_time_s"] = duration(given) if given is not None else "the time given"


def _pressure(case: Case, draft: Draft) -> None:
    wanted = case.worked_before.pressure or case.recipe.pressure
    if wanted and wanted != "unknown":
        draft.settings["pressure"] = wanted
        draft.values["pressure"] = wanted


def _turns(case: Case, draft: Draft) -> None:
    """Turns of the knob for the change in thickness (handbook 3, "Pressure")."""
    press, thickness = case.press, case.blank.thickness_mm
    if not press.lift_mm_per_turn or press.thickness_when_set_mm is None or thickness is None:
        return
    change = thickness - press.thickness_when_set_mm
    turns = abs(change) / press.lift_mm_per_turn
    way = "loosen" if change > 0 else "tighten"
    draft.settings |= {"turns": round(turns, 2), "action": way}
    draft.values["turns_advice"] = f": {way} by {turns:.2g} turns"


def _closings(case: Case, draft: Draft) -> None:
    limit, window = case.press.timer_max_s, case.recipe.time_s
    if not limit or window is None:
        return
    closings = [round(part, 1) for part in split_dwell(sum(window) / 2, limit)]
    draft.settings["closings_s"] = closings
    if len(closings) > 1:
        draft.values["closings_advice"] = phrase(
            "; this timer goes up to {limit}, so keep to {first} + {last}",
            limit=duration(limit),
            first=" + ".join(f"{c:g}" for c in closings[:-1]),
            last=duration(closings[-1]),
        )


def _long_and_lower(case: Case, draft: Draft) -> None:
    """The recipe's own long-and-lower school, as its stack needs it; else equal dye dose by the
    clock at a lower temperature (handbook 3, "Dye").
    """
    target, window = target_temperature_c(case), case.recipe.time_s
    if target is None or window is None or case.method not in DYE_METHODS:
        return
    lower = target - LOWER_BY_C
    time_s = equal_dose_time_s(target, sum(window) / 2, lower)
    school_c, school_s = case.recipe.lower_temperature_c, case.recipe.lower_time_s
    if school_c is not None and school_s is not None:
        lower, time_s = sum(school_c) / 2, sum(school_s) / 2
    draft.settings |= {"target_c": round(lower, 1), "time_s": round(time_s)}
    setting = _dial_for(case, lower)
    if setting is not None:
        draft.settings["set_c"] = setting
    draft.values["long_lower_advice"] = phrase(
        ": {lower} true for {time} gives the same result",
        lower=temperature(lower, 0),
        time=duration(time_s, 0),
    )


def _bleed(case: Case, draft: Draft) -> None:
    growth = blank_growth_mm(case)
    sides = case.blank.width_mm, case.blank.height_mm
    if growth is None or sides[0] is None or sides[1] is None:
        return
    placing = case.art.placement_mm if case.art.placement_mm is not None else PLACED_WITHIN_MM
    art = [
        round(size + 2 * (g + placing), 1)
        for size, g in zip((sides[0], sides[1]), growth, strict=True)
    ]
    draft.settings["art_mm"] = {"width": art[0], "height": art[1]}
    width, height = length(art[0]), length(art[1])
    draft.values["bleed_advice"] = phrase(": {width} × {height} here", width=width, height=height)


def _density(case: Case, draft: Draft) -> None:
    share = case.blank.polyester
    if share is not None:
        draft.values["density_advice"] = (
            f"; {share * 100:.0f} % gives at most {share:.2f} of the full density"
        )


SETTINGS: dict[str, Callable[[Case, Draft], None]] = {
    "temperature": _temperature,
    "move_or_raise": _move_or_raise,
    "dwell": _dwell,
    "pressure": _pressure,
    "turns": _turns,
    "closings": _closings,
    "long_and_lower": _long_and_lower,
    "bleed": _bleed,
    "density": _density,
}
