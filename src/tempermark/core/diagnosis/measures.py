"""Arithmetic first: what the case's own numbers prove for or against a cause.

Each measure turns a deviation into log odds by a curve of `knowledge/measures.toml` and
says it in words. None means that the case does not know enough.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from tempermark.core.constants import expansion_per_k
from tempermark.core.diagnosis.case import Case
from tempermark.core.diagnosis.knowledge_base import Curve
from tempermark.core.thermal.materials import materials
from tempermark.core.vocabulary import PRESSURE_CLASSES

# A setting that worked before holds within these (handbook 2, rule 1).
WORKED_TEMPERATURE_C = 5.0
WORKED_TIME_SHARE = 0.12
# Inside the leaflet's window but off what worked: weaker evidence.
LEAFLET_DOUBT = 0.6
# Measured inside the window, with this much grace: the dial's own figure is moot.
TRUTH_GRACE_C = 2.0
TRUTH_DECIDES = -3.5
# Seconds lost while the stack warms up again at each further closing, where nobody computed it.
REOPENING_LOSS_S = 1.5
# One layer this much thicker or thinner than the one that the pressure was set for is another
# thickness, mm; what that says of too much or too little pressure (handbook 2, pressure_not_reset).
OTHER_THICKNESS_MM = 0.5
THICKNESS_LOG_ODDS = 0.7
# Share of a print-wide deviation that speaks for a zone rather than the whole platen.
WHOLE_PLATEN_SHARE = 0.35


@dataclass(frozen=True)
class Evidence:
    """A piece of evidence: natural log of its odds factor, its words, and why it counts."""

    log_odds: float
    text: str
    why: str = ""


Measure = Callable[[Case, dict[str, Curve]], Evidence | None]


def weigh(curve: Curve, deviation: float, uncertainty: float = 0.0) -> float:
    """Log odds of a deviation, averaged over ± its standard uncertainty."""
    points = deviation + uncertainty * np.array([-1.0, 0.0, 1.0])
    return float(np.mean(np.interp(points, curve.at, curve.log_odds)))


def _c(value: float) -> str:
    return f"{value:.0f} °C" if abs(value - round(value)) < 0.05 else f"{value:.1f} °C"


def _span(window, unit: str) -> str:
    return f"{window[0]:g}–{window[1]:g} {unit}"


def _temperature_reference(case: Case):
    """The window that counts, its words, and a factor on evidence against it."""
    window, worked = case.recipe.temperature_c, case.worked_before.temperature_c
    if worked is None:
        return (window, f"window {_span(window, '°C')}", 1.0) if window else None
    reach = max(WORKED_TEMPERATURE_C, (window[1] - window[0]) / 2 if window else 0)
    doubt = LEAFLET_DOUBT if window and window[0] <= worked <= window[1] else 1.0
    return (worked - reach, worked + reach), f"worked before at {_c(worked)}", doubt


def _time_reference(case: Case):
    window, worked = case.recipe.time_s, case.worked_before.time_s
    if worked is None:
        return (window, f"window {_span(window, 's')}") if window else None
    reach = (1 - WORKED_TIME_SHARE) * worked, (1 + WORKED_TIME_SHARE) * worked
    return reach, f"worked before with {worked:g} s"


def _beyond(value: float, window, low_side: bool) -> float:
    """How far a value lies beyond one end of the window; negative inside."""
    return window[0] - value if low_side else value - window[1]


def _weighed(curves, name, excess, uncertainty, doubt):
    log_odds = weigh(curves[name], excess, uncertainty)
    return log_odds * doubt if log_odds > 0 else log_odds


def _dial(case: Case, curves, low_side: bool) -> Evidence | None:
    reference = _temperature_reference(case)
    actual, measured = case.actual, case.actual.measured_c
    if reference is None or actual.set_c is None:
        return None
    window, words, doubt = reference
    if measured is not None and _beyond(measured, window, low_side) < -TRUTH_GRACE_C / 2:
        return Evidence(TRUTH_DECIDES, f"the platen is truly {_c(measured)} there, {words}")
    excess = _beyond(actual.set_c, window, low_side)
    return Evidence(
        _weighed(curves, "temperature", excess, 0.0, doubt),
        f"dial {_c(actual.set_c)}, {words}",
    )


def dial_below_window(case, curves):
    """The dial below the window, unless measured truth says otherwise."""
    return _dial(case, curves, True)


def dial_above_window(case, curves):
    """The dial above the window, unless measured truth says otherwise."""
    return _dial(case, curves, False)


def _true(case: Case, curves, low_side: bool) -> Evidence | None:
    reference = _temperature_reference(case)
    actual = case.actual
    if reference is None:
        return None
    window, words, doubt = reference
    dial_excess = None if actual.set_c is None else _beyond(actual.set_c, window, low_side)
    if actual.measured_c is None:
        if actual.set_c is not None and (dial_excess or 0.0) > TRUTH_GRACE_C:
            return Evidence(-1.0, f"dial {_c(actual.set_c)} is itself outside, {words}")
        return None
    log_odds = _weighed(
        curves,
        "temperature",
        _beyond(actual.measured_c, window, low_side),
        actual.measured_uncertainty_c,
        doubt,
    )
    text = f"true {_c(actual.measured_c)} at the print"
    if actual.set_c is not None:
        text += f" with the dial at {_c(actual.set_c)}"
    if log_odds > 0 and dial_excess is not None and dial_excess > TRUTH_GRACE_C:
        log_odds = _share_of_display(actual, dial_excess, low_side, log_odds)
    return Evidence(log_odds, f"{text}, {words}")


def _share_of_display(actual, dial_excess, low_side, log_odds) -> float:
    """The dial is outside too: blame the display only by what it adds itself."""
    error = actual.set_c - actual.measured_c if low_side else actual.measured_c - actual.set_c
    return -2.5 if error < dial_excess / 2 else log_odds * 0.5


def true_below_window(case, curves):
    """Measured below the window while the dial is not: the display reads high."""
    return _true(case, curves, True)


def true_above_window(case, curves):
    """Measured above the window while the dial is not: the display reads low."""
    return _true(case, curves, False)


def _place(case: Case, curves, low_side: bool) -> Evidence | None:
    reference = _temperature_reference(case)
    if reference is None:
        return None
    window, words, doubt = reference
    local, mean = case.map_at_print.at_mark_c, case.actual.measured_c
    if local is None:
        if mean is None:
            return None
        excess = _beyond(mean, window, low_side)
        local_words = f"true {_c(mean)} at the print, {words}"
        log_odds = weigh(curves["place"], excess)
        # A mean below the window may be the whole platen; a mean inside it speaks plainly.
        return Evidence(log_odds * WHOLE_PLATEN_SHARE if log_odds > 0 else log_odds, local_words)
    excess = _beyond(local, window, low_side)
    log_odds = _weighed(curves, "place", excess, case.map_at_print.at_mark_uncertainty_c, doubt)
    if mean is not None and log_odds > 0 and abs(mean - local) < 2.0:
        return Evidence(-1.0, f"{_c(local)} at the mark, hardly other than the rest of the print")
    when = f", survey of {case.map_at_print.surveyed}" if case.map_at_print.surveyed else ""
    return Evidence(log_odds, f"{_c(local)} true at the mark{when}, {words}")


def place_below_window(case, curves):
    """The survey's map at the mark lies below the window."""
    return _place(case, curves, True)


def place_above_window(case, curves):
    """The survey's map at the mark lies above the window."""
    return _place(case, curves, False)


def true_inside_window(case, curves):
    """The platen measured right leaves the causes beyond temperature."""
    reference = _temperature_reference(case)
    measured = case.actual.measured_c
    if reference is None or measured is None:
        return None
    window, words, _ = reference
    inside = window[0] - TRUTH_GRACE_C <= measured <= window[1] + TRUTH_GRACE_C
    return Evidence(0.7 if inside else -1.5, f"true {_c(measured)} at the print, {words}")


def even_map(case, curves):
    """An even temperature map leaves pad and level."""
    reference = _temperature_reference(case)
    local, mean = case.map_at_print.at_mark_c, case.actual.measured_c
    known = local if local is not None else mean
    if reference is None or known is None:
        return None
    window, _, _ = reference
    inside = window[0] - TRUTH_GRACE_C <= known <= window[1] + TRUTH_GRACE_C
    place = "at the mark" if local is not None else "at the print"
    return Evidence(0.6 if inside else -1.2, f"true {_c(known)} {place}")


def _dwell(case: Case, curves, low_side: bool) -> Evidence | None:
    reference = _time_reference(case)
    time_s = case.actual.time_s
    if reference is None or time_s is None:
        return None
    window, words = reference
    closures = case.actual.closures or 1
    effective = case.actual.effective_s
    if effective is None:
        effective = time_s - REOPENING_LOSS_S * (closures - 1)
    end = window[0] if low_side else window[1]
    excess = _beyond(effective, window, low_side) / max(end, 1.0)
    told = f"dwell {time_s:g} s"
    if closures > 1:
        told += f" in {closures} closings, worth {effective:.0f} s of one"
    return Evidence(weigh(curves["dwell"], excess), f"{told}, {words}")


def dwell_below_window(case, curves):
    """Time pressed, less what reopening costs, against the window."""
    return _dwell(case, curves, True)


def dwell_above_window(case, curves):
    """Time pressed, less what reopening costs, against the window."""
    return _dwell(case, curves, False)


def _pressure(case: Case, curves, low_side: bool) -> Evidence | None:
    wanted = case.worked_before.pressure or case.recipe.pressure
    given = case.actual.pressure
    if wanted not in PRESSURE_CLASSES or given not in PRESSURE_CLASSES:
        return None
    steps = PRESSURE_CLASSES.index(wanted) - PRESSURE_CLASSES.index(given)
    log_odds = weigh(curves["pressure"], steps if low_side else -steps)
    words = "worked before with" if case.worked_before.pressure else "asked for"
    return Evidence(log_odds, f"{given} pressure, {words} {wanted}")


def pressure_below_window(case, curves):
    """Pressure class lighter than asked."""
    return _pressure(case, curves, True)


def pressure_above_window(case, curves):
    """Pressure class firmer than asked."""
    return _pressure(case, curves, False)


def _thickness(case: Case, thinner: bool) -> Evidence | None:
    was, now = case.press.thickness_when_set_mm, case.blank.thickness_mm
    if was is None or now is None or abs(now - was) < OTHER_THICKNESS_MM:
        return None
    word = "thinner" if now < was else "thicker"
    log_odds = THICKNESS_LOG_ODDS if (now < was) is thinner else -THICKNESS_LOG_ODDS
    return Evidence(log_odds, f"{word} than the blank it was set for: {now:g} mm, then {was:g} mm")


def set_for_thicker(case, curves):
    """The same knob presses a thinner blank less."""
    return _thickness(case, thinner=True)


def set_for_thinner(case, curves):
    """The same knob presses a thicker blank more."""
    return _thickness(case, thinner=False)


def pressure_as_asked(case, curves):
    """Pressure known to be as asked speaks against a knob left standing."""
    wanted, given = case.recipe.pressure, case.actual.pressure
    if wanted not in PRESSURE_CLASSES or given not in PRESSURE_CLASSES:
        return None
    return Evidence(-1.2 if wanted == given else 0.4, f"{given} pressure, asked for {wanted}")


def heat_held_back(case, curves):
    """The stack that was used lets less heat through than the recipe's."""
    share = case.actual.heat_through
    if share is None:
        return None
    words = f"the stack lets {share:.2f} of the recipe's dose through, computed"
    return Evidence(weigh(curves["heat_through"], share), words)


def timer_ceiling(case, curves):
    """A timer that stops below the dwell forces closings."""
    limit, window = case.press.timer_max_s, case.recipe.time_s
    if limit is None or window is None or limit >= window[0]:
        return None
    return Evidence(0.8, f"the timer stops at {limit:g} s, the dwell is {_span(window, 's')}")


def synthetic_cloth(case, curves):
    """Polyester knits shrink under heat."""
    share = case.blank.polyester
    if share is None:
        return None
    return Evidence(0.5 if share >= 0.5 else -1.0 if share <= 0.1 else 0.0, _polyester(share))


def _polyester(share: float) -> str:
    return f"{share:.0%} polyester".replace("%", " %")


def humid_air(case, curves):
    """Room humidity."""
    humidity = case.relative_humidity
    if humidity is None:
        return None
    return Evidence(
        weigh(curves["humidity"], humidity), f"{humidity:.0%} relative humidity".replace("%", " %")
    )


def thirsty_blank(case, curves):
    """Cotton holds water, polyester hardly any."""
    share = case.blank.polyester
    if share is None or case.blank.kind not in ("garment", "bag", "cap"):
        return None
    log_odds = 0.5 if share <= 0.3 else -0.6 if share >= 0.9 else 0.0
    return Evidence(log_odds, _polyester(share))


def large_panel(case, curves):
    """On large rigid panels vapour has far to go."""
    sides = [s for s in (case.blank.width_mm, case.blank.height_mm) if s]
    if not sides:
        return None
    return Evidence(
        weigh(curves["panel_side"], max(sides)), f"a panel of {max(sides):g} mm on its longer side"
    )


def art_not_larger(case, curves):
    """Art and blank compared."""
    blank, art = case.blank, case.art
    pairs = [(art.width_mm, blank.width_mm), (art.height_mm, blank.height_mm)]
    known = [(a, b) for a, b in pairs if a is not None and b is not None]
    if not known:
        return None
    margin = min(a - b for a, b in known)
    return Evidence(3.0 if margin <= 0.5 else -2.0, f"art {margin:+.1f} mm against the blank")


def growth_per_side_mm(case: Case) -> tuple[float, float] | None:
    """Growth per side (width, height) in mm of the heated blank; None if unknown."""
    alpha = expansion_per_k(case.blank.material or "")
    window = case.recipe.temperature_c
    middle = sum(window) / 2 if window else None
    hot = case.actual.measured_c or case.actual.set_c or middle
    if alpha is None or hot is None or case.blank.width_mm is None or case.blank.height_mm is None:
        return None
    rise = hot - (case.ambient_c if case.ambient_c is not None else 22.0)
    return alpha * case.blank.width_mm * rise / 2, alpha * case.blank.height_mm * rise / 2


def growth_over_bleed(case, curves):
    """Growth per side against the bleed that the art left."""
    growth = growth_per_side_mm(case)
    if growth is None or case.art.width_mm is None or case.art.height_mm is None:
        return None
    placing = case.art.placement_mm or 0.0
    bleeds = (
        (case.art.width_mm - case.blank.width_mm) / 2 - placing,
        (case.art.height_mm - case.blank.height_mm) / 2 - placing,
    )
    side = int(np.argmax(np.subtract(growth, bleeds)))
    return Evidence(
        weigh(curves["growth"], growth[side] - bleeds[side]),
        f"grows {growth[side]:.1f} mm per side, bleed left {bleeds[side]:.1f} mm",
    )


def polyester_share(case, curves):
    """Density goes with the polyester share."""
    share = case.blank.polyester
    if share is None:
        return None
    return Evidence(weigh(curves["polyester"], share), _polyester(share))


def softening(case, curves):
    """Plastics that soften below the platen."""
    known = materials().get(case.blank.material or "")
    limit = known.softens_c if known and known.group == "plastic" else None
    hot = case.actual.measured_c or case.actual.set_c
    if limit is None or hot is None:
        return None
    return Evidence(
        1.5 if hot > limit else -1.5,
        f"{case.blank.material} softens near {_c(limit)}, platen {_c(hot)}",
    )


def dyed_polyester(case, curves):
    """Only polyester gives up its dye to a film."""
    share = case.blank.polyester
    if share is None:
        return None
    return Evidence(0.8 if share >= 0.5 else -3.0 if share <= 0.1 else 0.0, _polyester(share))


def _peel(case: Case, early: bool) -> Evidence | None:
    order = ("hot", "warm", "cold")
    wanted, given = case.recipe.peel, case.actual.peel
    if wanted not in order or given not in order:
        return None
    steps = order.index(wanted) - order.index(given)
    off = steps if early else -steps
    return Evidence(2.8 if off > 0 else -3.0, f"peeled {given}, the film wants {wanted}")


def peel_early(case, curves):
    """Peeled hotter than the film wants."""
    return _peel(case, True)


def peel_late(case, curves):
    """Peeled colder than the film wants."""
    return _peel(case, False)


MEASURES: dict[str, Measure] = {
    function.__name__: function
    for function in (
        dial_below_window,
        dial_above_window,
        true_below_window,
        true_above_window,
        place_below_window,
        place_above_window,
        true_inside_window,
        even_map,
        dwell_below_window,
        dwell_above_window,
        pressure_below_window,
        pressure_above_window,
        pressure_as_asked,
        set_for_thicker,
        set_for_thinner,
        heat_held_back,
        timer_ceiling,
        synthetic_cloth,
        humid_air,
        thirsty_blank,
        large_panel,
        art_not_larger,
        growth_over_bleed,
        polyester_share,
        softening,
        dyed_polyester,
        peel_early,
        peel_late,
    )
}

# What a measure would need and the case may lack, as a question for the technician.
NEEDS = {
    "true_below_window": (
        "actual.measured_c",
        "What is the true temperature at the print's place?",
    ),
    "true_above_window": (
        "actual.measured_c",
        "What is the true temperature at the print's place?",
    ),
    "dwell_below_window": ("actual.time_s", "How long was it pressed in all?"),
    "dwell_above_window": ("actual.time_s", "How long was it pressed in all?"),
    "pressure_below_window": ("actual.pressure", "Was the pressure light, medium or firm?"),
    "pressure_above_window": ("actual.pressure", "Was the pressure light, medium or firm?"),
    "polyester_share": ("blank.polyester", "How much polyester is in the cloth?"),
    "peel_early": ("actual.peel", "Was it peeled hot, warm or cold?"),
    "peel_late": ("actual.peel", "Was it peeled hot, warm or cold?"),
}
