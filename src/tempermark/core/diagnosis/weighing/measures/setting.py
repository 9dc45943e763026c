"""Dwell, pressure, thickness and peel, against what the recipe asks and what worked before."""

from tempermark.core.constants import OTHER_THICKNESS_MM
from tempermark.core.diagnosis.case import Case
from tempermark.core.diagnosis.weighing.measures.basis import (
    Curves,
    Evidence,
    beyond,
    time_reference,
    weigh,
)
from tempermark.core.phrases import duration, durations, length, phrase
from tempermark.core.vocabulary.settings import PRESSURE_CLASSES

# Seconds lost while the stack warms up again at each further closing, where nobody computed it.
REOPENING_LOSS_S = 1.5
# What another thickness than the one that the pressure was set for says of too much or too little
# pressure (handbook 2, pressure_not_reset).
THICKNESS_LOG_ODDS = 0.7


def _dwell(case: Case, curves: Curves, low_side: bool) -> Evidence | None:
    reference = time_reference(case)
    time_s = case.actual.time_s
    if reference is None or time_s is None:
        return None
    window = reference.window
    closures = case.actual.closures or 1
    effective = case.actual.effective_s
    if effective is None:
        effective = time_s - REOPENING_LOSS_S * (closures - 1)
    end = window[0] if low_side else window[1]
    excess = beyond(effective, window, low_side) / max(end, 1.0)
    text = phrase("dwell {time}, {reference}", time=duration(time_s), reference=reference.words)
    if closures > 1:
        text = phrase(
            "dwell {time} in {closures} closings, worth {effective} of one, {reference}",
            time=duration(time_s),
            closures=f"{closures}",
            effective=duration(effective, 0),
            reference=reference.words,
        )
    return Evidence(weigh(curves["dwell"], excess), text)


def dwell_below_window(case: Case, curves: Curves) -> Evidence | None:
    """Time pressed, less what reopening costs, against the window."""
    return _dwell(case, curves, True)


def dwell_above_window(case: Case, curves: Curves) -> Evidence | None:
    """Time pressed, less what reopening costs, against the window."""
    return _dwell(case, curves, False)


def timer_ceiling(case: Case, curves: Curves) -> Evidence | None:
    """A timer that stops below the dwell forces closings."""
    limit, window = case.press.timer_max_s, case.recipe.time_s
    if limit is None or window is None or limit >= window[0]:
        return None
    text = "the timer goes up to {limit}, the window is {window}"
    return Evidence(0.8, phrase(text, limit=duration(limit), window=durations(window)))


def _pressure(case: Case, curves: Curves, low_side: bool) -> Evidence | None:
    wanted = case.worked_before.pressure or case.recipe.pressure
    given = case.actual.pressure
    if wanted not in PRESSURE_CLASSES or given not in PRESSURE_CLASSES:
        return None
    steps = PRESSURE_CLASSES.index(wanted) - PRESSURE_CLASSES.index(given)
    log_odds = weigh(curves["pressure"], steps if low_side else -steps)
    words = "good before with" if case.worked_before.pressure else "asked for"
    return Evidence(log_odds, f"{given} pressure, {words} {wanted}")


def pressure_below_window(case: Case, curves: Curves) -> Evidence | None:
    """Pressure class lighter than asked."""
    return _pressure(case, curves, True)


def pressure_above_window(case: Case, curves: Curves) -> Evidence | None:
    """Pressure class firmer than asked."""
    return _pressure(case, curves, False)


def _thickness(case: Case, thinner: bool) -> Evidence | None:
    was, now = case.press.thickness_when_set_mm, case.blank.thickness_mm
    if was is None or now is None or abs(now - was) < OTHER_THICKNESS_MM:
        return None
    label = "thinner" if now < was else "thicker"
    log_odds = THICKNESS_LOG_ODDS if (now < was) is thinner else -THICKNESS_LOG_ODDS
    text = "{label} than the blank it was set for: {now}, then {was}"
    return Evidence(log_odds, phrase(text, label=label, now=length(now), was=length(was)))


def set_for_thicker(case: Case, curves: Curves) -> Evidence | None:
    """The same knob presses a thinner blank less."""
    return _thickness(case, thinner=True)


def set_for_thinner(case: Case, curves: Curves) -> Evidence | None:
    """The same knob presses a thicker blank more."""
    return _thickness(case, thinner=False)


def pressure_as_asked(case: Case, curves: Curves) -> Evidence | None:
    """Pressure known to be as asked speaks against a knob left standing."""
    wanted, given = case.recipe.pressure, case.actual.pressure
    if wanted not in PRESSURE_CLASSES or given not in PRESSURE_CLASSES:
        return None
    return Evidence(-1.2 if wanted == given else 0.4, f"{given} pressure, recipe asks for {wanted}")


def _peel(case: Case, early: bool) -> Evidence | None:
    order = ("hot", "warm", "cold")
    wanted, given = case.recipe.peel, case.actual.peel
    if wanted not in order or given not in order:
        return None
    steps = order.index(wanted) - order.index(given)
    off = steps if early else -steps
    return Evidence(2.8 if off > 0 else -3.0, f"peeled {given}, the film needs {wanted}")


def peel_early(case: Case, curves: Curves) -> Evidence | None:
    """Peeled hotter than the film wants."""
    return _peel(case, True)


def peel_late(case: Case, curves: Curves) -> Evidence | None:
    """Peeled colder than the film wants."""
    return _peel(case, False)
