"""The dial, the true temperature, the place under the mark and the stack, against the window."""

from tempermark.core.diagnosis.case import Case
from tempermark.core.diagnosis.weighing.measures.basis import (
    Curves,
    Evidence,
    Reference,
    beyond,
    temperature_reference,
    weigh,
    weighed,
)
from tempermark.core.phrases import Phrase, phrase, temperature

# Measured inside the window, with this much grace: the dial's own figure is moot.
TRUTH_GRACE_C = 2.0
TRUTH_DECIDES = -3.5
# Share of a print-wide deviation that speaks for a zone rather than the whole platen.
WHOLE_PLATEN_SHARE = 0.35
# A mark as hot as the print within this, K, is no cold or hot place.
SAME_AS_PRINT_C = 2.0


def _dial(case: Case, curves: Curves, low_side: bool) -> Evidence | None:
    reference = temperature_reference(case)
    actual, measured = case.actual, case.actual.measured_c
    if reference is None or actual.set_c is None:
        return None
    window = reference.window
    if measured is not None and beyond(measured, window, low_side) < -TRUTH_GRACE_C / 2:
        text = _against("the platen is at {value} true there, {reference}", measured, reference)
        return Evidence(TRUTH_DECIDES, text)
    excess = beyond(actual.set_c, window, low_side)
    return Evidence(
        weighed(curves["temperature"], excess, 0.0, reference.doubt),
        _against("dial {value}, {reference}", actual.set_c, reference),
    )


def _against(text: str, value_c: float, reference: Reference) -> Phrase:
    """A text with a temperature and the window it is held against."""
    return phrase(text, value=temperature(value_c), reference=reference.words)


def dial_below_window(case: Case, curves: Curves) -> Evidence | None:
    """The dial below the window, unless measured truth says otherwise."""
    return _dial(case, curves, True)


def dial_above_window(case: Case, curves: Curves) -> Evidence | None:
    """The dial above the window, unless measured truth says otherwise."""
    return _dial(case, curves, False)


def _true(case: Case, curves: Curves, low_side: bool) -> Evidence | None:
    reference = temperature_reference(case)
    actual = case.actual
    if reference is None:
        return None
    window, set_c, measured_c = reference.window, actual.set_c, actual.measured_c
    dial_excess = None if set_c is None else beyond(set_c, window, low_side)
    if measured_c is None:
        if set_c is not None and (dial_excess or 0.0) > TRUTH_GRACE_C:
            text = _against("dial {value} is itself outside, {reference}", set_c, reference)
            return Evidence(-1.0, text)
        return None
    excess = beyond(measured_c, window, low_side)
    log_odds = weighed(
        curves["temperature"], excess, actual.measured_uncertainty_c, reference.doubt
    )
    if set_c is None or dial_excess is None:
        return Evidence(
            log_odds, _against("{value} true at the print, {reference}", measured_c, reference)
        )
    if log_odds > 0 and dial_excess > TRUTH_GRACE_C:
        error = set_c - measured_c if low_side else measured_c - set_c
        log_odds = _share_of_display(error, dial_excess, log_odds)
    text = phrase(
        "{value} true at the print with the dial at {dial}, {reference}",
        value=temperature(measured_c),
        dial=temperature(set_c),
        reference=reference.words,
    )
    return Evidence(log_odds, text)


def _share_of_display(error_k: float, dial_excess_k: float, log_odds: float) -> float:
    """The dial is outside too: blame the display only by the error it adds itself."""
    return -2.5 if error_k < dial_excess_k / 2 else log_odds * 0.5


def true_below_window(case: Case, curves: Curves) -> Evidence | None:
    """Measured below the window while the dial is not: the display reads high."""
    return _true(case, curves, True)


def true_above_window(case: Case, curves: Curves) -> Evidence | None:
    """Measured above the window while the dial is not: the display reads low."""
    return _true(case, curves, False)


def _place(case: Case, curves: Curves, low_side: bool) -> Evidence | None:
    reference = temperature_reference(case)
    if reference is None:
        return None
    local, mean = case.map_at_print.at_mark_c, case.actual.measured_c
    if local is None:
        return None if mean is None else _whole_print(mean, reference, curves, low_side)
    excess = beyond(local, reference.window, low_side)
    unsure = case.map_at_print.at_mark_uncertainty_c
    log_odds = weighed(curves["place"], excess, unsure, reference.doubt)
    if mean is not None and log_odds > 0 and abs(mean - local) < SAME_AS_PRINT_C:
        text = "{value} at the mark, hardly different from the rest of the print"
        return Evidence(-1.0, phrase(text, value=temperature(local)))
    surveyed = case.map_at_print.surveyed
    when = f", survey of {surveyed}" if surveyed else ""
    text = "{value} true at the mark{when}, {reference}"
    words = phrase(text, value=temperature(local), when=when, reference=reference.words)
    return Evidence(log_odds, words)


def _whole_print(mean_c: float, reference: Reference, curves: Curves, low_side: bool) -> Evidence:
    """A mean below the window may be the whole platen; a mean inside it speaks plainly."""
    log_odds = weigh(curves["place"], beyond(mean_c, reference.window, low_side))
    share = WHOLE_PLATEN_SHARE if log_odds > 0 else 1.0
    text = _against("{value} true at the print, {reference}", mean_c, reference)
    return Evidence(log_odds * share, text)


def place_below_window(case: Case, curves: Curves) -> Evidence | None:
    """The survey's map at the mark lies below the window."""
    return _place(case, curves, True)


def place_above_window(case: Case, curves: Curves) -> Evidence | None:
    """The survey's map at the mark lies above the window."""
    return _place(case, curves, False)


def true_inside_window(case: Case, curves: Curves) -> Evidence | None:
    """The platen measured right leaves the causes beyond temperature."""
    reference = temperature_reference(case)
    measured = case.actual.measured_c
    if reference is None or measured is None:
        return None
    text = _against("{value} true at the print, {reference}", measured, reference)
    return Evidence(0.7 if _is_inside(measured, reference) else -1.5, text)


def _is_inside(true_c: float, reference: Reference) -> bool:
    low, high = reference.window
    return low - TRUTH_GRACE_C <= true_c <= high + TRUTH_GRACE_C


def even_map(case: Case, curves: Curves) -> Evidence | None:
    """An even temperature map leaves pad and level."""
    reference = temperature_reference(case)
    local, mean = case.map_at_print.at_mark_c, case.actual.measured_c
    known = local if local is not None else mean
    if reference is None or known is None:
        return None
    place = "at the mark" if local is not None else "at the print"
    text = phrase("{value} true {place}", value=temperature(known), place=place)
    return Evidence(0.6 if _is_inside(known, reference) else -1.2, text)


def heat_held_back(case: Case, curves: Curves) -> Evidence | None:
    """The stack that was used lets less heat through than the recipe's."""
    share = case.actual.heat_through
    if share is None:
        return None
    words = f"the stack lets {share:.2f} of the recipe's dose through, computed"
    return Evidence(weigh(curves["heat_through"], share), words)
