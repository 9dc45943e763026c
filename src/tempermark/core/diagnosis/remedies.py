"""What to change, in numbers where numbers exist, computed for this press."""

from collections.abc import Callable
from dataclasses import dataclass, field

from tempermark.core.diagnosis.case import Case
from tempermark.core.diagnosis.knowledge_base import Cause
from tempermark.core.diagnosis.measures import growth_per_side_mm
from tempermark.core.recipes.windows import closings as split_dwell
from tempermark.core.thermal.dye import equal_dose_time_s
from tempermark.core.vocabulary import DYE_METHODS, FILM_METHODS

# Long-and-lower for panels: this much under the window's middle (handbook 4, job 5).
LOWER_BY_C = 15.0
TAPE_ALL_CORNERS_MM = 300.0
# More polyester than this gives its dye to a film when overheated (handbook 2).
MIGRATING_POLYESTER = 0.3


@dataclass
class Remedy:
    """Settings by key, words for the text's placeholders, and cautions."""

    settings: dict = field(default_factory=dict)
    words: dict[str, str] = field(default_factory=dict)
    cautions: list[str] = field(default_factory=list)


def remedy(cause: Cause, case: Case) -> tuple[str, dict, list[str]]:
    """Text, settings and cautions of a cause's remedy in this case."""
    made = Remedy(
        words={
            "turns_advice": "",
            "closings_advice": "",
            "long_lower_advice": "",
            "bleed_advice": "",
            "density_advice": "",
        }
    )
    for name in cause.settings:
        SETTINGS[name](case, made)
    try:
        text = cause.remedy.format(**made.words)
    except KeyError:
        text = cause.remedy_open
    return text, made.settings, made.cautions


def target_temperature_c(case: Case) -> float | None:
    """True temperature to aim at: what worked before, else the window's middle.

    On dyed polyester under film the lower third, so that the remedy does not bring dye
    migration.
    """
    window = case.recipe.temperature_c
    if case.worked_before.temperature_c is not None:
        return case.worked_before.temperature_c
    if window is None:
        return None
    return window[0] + (window[1] - window[0]) * (0.3 if _migrating(case) else 0.5)


def _migrating(case: Case) -> bool:
    share = case.blank.polyester
    return (
        case.method in FILM_METHODS
        and case.blank.colour in ("mid", "dark")
        and (share is None or share >= MIGRATING_POLYESTER)
    )


def setting_for(case: Case, target_c: float) -> float | None:
    """The dial for a true temperature, by what was measured and the press's gain."""
    actual = case.actual
    if actual.set_c is None or actual.measured_c is None:
        return None
    exact = actual.set_c + (target_c - actual.measured_c) / case.press.gain
    step = case.press.resolution_c or 1.0
    return round(exact / step) * step


def _temperature(case: Case, made: Remedy) -> None:
    target = target_temperature_c(case)
    if target is None:
        return
    setting = setting_for(case, target)
    set_c, measured_c = case.actual.set_c, case.actual.measured_c
    if set_c is None:
        return
    if setting is None or measured_c is None:
        setting = float(round(target))
        made.words["display_error_k"] = "an unknown number of"
        made.settings["unmeasured"] = True
        made.words["set_c"] = f"{setting:g} °C (the press is not measured: read it first)"
    else:
        error = f"{measured_c - set_c:+.0f}".replace("-", "−")
        made.words["display_error_k"] = error
        made.words["set_c"] = f"{setting:g} °C"
    made.settings.update(set_c=setting, target_c=round(target, 1))
    made.words["target_c"] = f"{target:.0f} °C"
    if _migrating(case):
        made.cautions.append(
            "Coloured polyester: stay in the lower third of the window, or its dye migrates."
        )


def _move_or_raise(case: Case, made: Remedy) -> None:
    place = case.map_at_print
    window = case.recipe.temperature_c
    if place.at_mark_c is None or window is None:
        return
    advice = "Move the art"
    advice += f" inside {place.usable_words}" if place.usable_words else " towards the middle"
    raised = _shared_setting(case, window)
    if raised is None:
        advice += ". No setting brings the whole print into the window at this place."
    else:
        made.settings["set_c"] = raised
        advice += f", or keep the place and set {raised:g} °C."
    made.words["place_advice"] = advice


def _shared_setting(case: Case, window) -> float | None:
    """A dial that has coolest and hottest place of the print inside the window, if any."""
    place = case.map_at_print
    if case.actual.set_c is None:
        return None
    coolest = min(v for v in (place.coolest_c, place.at_mark_c) if v is not None)
    hottest = max(v for v in (place.hottest_c, place.at_mark_c) if v is not None)
    if hottest - coolest > window[1] - window[0]:
        return None
    shift = sum(window) / 2 - (coolest + hottest) / 2
    step = case.press.resolution_c or 1.0
    return round((case.actual.set_c + shift / case.press.gain) / step) * step


def _dwell(case: Case, made: Remedy) -> None:
    window, worked = case.recipe.time_s, case.worked_before.time_s
    if worked is not None:
        time_s = worked
    elif window is not None:
        time_s = sum(window) / 2
    else:
        return
    made.settings["time_s"] = round(time_s, 1)
    made.words["time_s"] = f"{time_s:g} s"
    given = case.actual.time_s
    made.words["actual_time_s"] = f"{given:g} s" if given is not None else "the time given"


def _pressure(case: Case, made: Remedy) -> None:
    wanted = case.worked_before.pressure or case.recipe.pressure
    if wanted and wanted != "unknown":
        made.settings["pressure"] = wanted
        made.words["pressure"] = wanted


def _turns(case: Case, made: Remedy) -> None:
    """Turns of the knob for the change in thickness (handbook 3, "Pressure")."""
    press, thickness = case.press, case.blank.thickness_mm
    if not press.lift_mm_per_turn or press.thickness_when_set_mm is None or thickness is None:
        return
    change = thickness - press.thickness_when_set_mm
    turns = abs(change) / press.lift_mm_per_turn
    way = "loosen" if change > 0 else "tighten"
    made.settings.update(turns=round(turns, 2), action=way)
    made.words["turns_advice"] = f": {way} by {turns:.2g} turns"


def _closings(case: Case, made: Remedy) -> None:
    limit = case.press.timer_max_s
    window = case.recipe.time_s
    if not limit or window is None:
        return
    total = sum(window) / 2
    closings = [round(part, 1) for part in split_dwell(total, limit)]
    made.settings["closings_s"] = closings
    if len(closings) > 1:
        made.words["closings_advice"] = (
            f"; this timer stops at {limit:g} s, so keep to "
            f"{' + '.join(f'{c:g}' for c in closings)} s"
        )


def _long_and_lower(case: Case, made: Remedy) -> None:
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
    made.settings.update(target_c=round(lower, 1), time_s=round(time_s))
    setting = setting_for(case, lower)
    if setting is not None:
        made.settings["set_c"] = setting
    made.words["long_lower_advice"] = f": {lower:.0f} °C true for {time_s:.0f} s comes out the same"


def _bleed(case: Case, made: Remedy) -> None:
    growth = growth_per_side_mm(case)
    sides = case.blank.width_mm, case.blank.height_mm
    if growth is None or sides[0] is None or sides[1] is None:
        return
    placing = case.art.placement_mm if case.art.placement_mm is not None else 1.0
    art = [
        round(size + 2 * (g + placing), 1)
        for size, g in zip((sides[0], sides[1]), growth, strict=True)
    ]
    made.settings["art_mm"] = {"width": art[0], "height": art[1]}
    made.words["bleed_advice"] = f": {art[0]:g} × {art[1]:g} mm here"


def _density(case: Case, made: Remedy) -> None:
    share = case.blank.polyester
    if share is not None:
        made.words["density_advice"] = (
            f"; {share * 100:.0f} % gives at most {share:.2f} of the full density"
        )


SETTINGS: dict[str, Callable[[Case, Remedy], None]] = {
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
