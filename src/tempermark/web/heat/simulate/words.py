"""What the heat does to a piece, in words with numbers."""

from typing import Any

import numpy as np

from tempermark.core.pressing.chain import Chain
from tempermark.core.pressing.closing import PressResult
from tempermark.core.pressing.hover import PLACES, HoverOutcome
from tempermark.core.pressing.limits import BRITTLE_KINDS, is_overloaded
from tempermark.core.pressing.request import BlankProperties, PressRequest
from tempermark.core.pressing.verdict import (
    DAMP_FROM_G_M2,
    GOOD_FROM,
    RISK_LIMIT,
    SLIGHTLY_FROM,
    WEAK_SHARE,
)
from tempermark.core.pressing.window_check import Outside, outside_window
from tempermark.core.recipes.steps import RecipeStep
from tempermark.core.thermal.result.sampled import Sampled
from tempermark.web.kit.figures import (
    NO_BREAK,
    pressure_text,
    pressures_text,
    share_text,
    temperature_text,
)
from tempermark.web.kit.units import Units

SAME_OUTCOME = 0.02
RISK_NAMES = {
    "scorch": "scorch",
    "blowout": "blowout",
    "rim": "squeeze-out rim",
    "migration": "dye migration",
    "dents": "dents",
}


def headline(pressed: PressResult, units: Units) -> str:
    """The outcome in one sentence."""
    there = temperature_text(float(pressed.reached.last_c[0]), units)
    if pressed.is_dye:
        if pressed.piece.share == 0:
            return "No dye will hold: this face has no polymer."
        share = share_text(pressed.filled)
        if pressed.filled < GOOD_FROM:
            share = f"{share} of full density"
        return f"{classify_outcome(pressed)}: {share}, {there} under the transfer at the end."
    if pressed.has_film:
        bond = share_text(pressed.bond)
        if pressed.bond < GOOD_FROM:
            bond = f"{bond} of a full bond"
        return f"{classify_outcome(pressed)}: {bond}, {there} under the film at the end."
    left = pressed.water_g_m2
    if left < DAMP_FROM_G_M2:
        return f"Dry: {there} under the cover at the end."
    return f"Still damp: {left:.0f}{NO_BREAK}g/m² of water left, {there} under the cover."


def classify_outcome(pressed: PressResult) -> str:
    """The outcome in a word or two."""
    filled = pressed.filled
    if pressed.is_dye:
        if filled >= GOOD_FROM:
            return (
                "Full density"
                if pressed.piece.share >= WEAK_SHARE
                else "As strong as this cloth can print"
            )
        return "Slightly pale" if filled >= SLIGHTLY_FROM else "Pale"
    if pressed.reached.flow_kpa_s[0] > pressed.piece.adhesive.halved_kpa_s:
        return "Squeezed out"
    if filled >= GOOD_FROM:
        return "Bonded"
    if pressed.reached.flows_s[0] <= 0:
        return "Adhesive never melts"
    return "Slightly weak bond" if filled >= SLIGHTLY_FROM else "Weak bond"


def outcome_rows(
    pressed: PressResult, units: Units, drawn: Sampled | None = None
) -> list[dict[str, Any]]:
    """Every outcome with its value, its reason and, where drawn, its 90 % interval."""
    rows = []
    r, p = pressed.reached, pressed.piece
    if pressed.is_dye and pressed.receiver is not None:
        because = (
            f"{pressed.receiver.label}, uptake {pressed.uptake:.1f}: share of polyester "
            f"{p.share:.2f} × (1 − e^−uptake)"
        )
        rows.append(
            _row(
                "density", pressed.density, because, drawn.outcome.density if drawn else None, drawn
            )
        )
    if pressed.has_film:
        because = (
            f"the adhesive flows for {r.flows_s[0]:.0f} s; pressure × time is "
            f"{pressure_text(r.flow_kpa_s[0], units)}·s, and a full bond needs "
            f"{pressure_text(p.adhesive.bonded_kpa_s, units)}·s"
        )
        rows.append(
            _row("bond", pressed.bond, because, drawn.outcome.bond if drawn else None, drawn)
        )
    for name, label in RISK_NAMES.items():
        because = _because(pressed, name, units)
        if because:
            values = drawn.outcome.risks[name] if drawn else None
            rows.append(_row(f"risk of {label}", pressed.risk(name), because, values, drawn))
    because = "near the print at the end of the dwell"
    if not pressed.transfers:
        because = "in the blank at the end of the dwell"
    row = {"label": "water left", "value": f"{pressed.water_g_m2:.1f} g/m²", "because": because}
    if drawn is not None:
        low, high = drawn.interval(drawn.reached.water_kg_m2 * 1e3)
        row |= {"low": f"{low:.1f}", "high": f"{high:.1f} g/m²"}
    return [*rows, row]


def _row(
    label: str, value: float, because: str, values: np.ndarray, drawn: Sampled
) -> dict[str, Any]:
    row = {"label": label, "value": share_text(value), "because": because}
    if values is not None:
        low, high = drawn.interval(values)
        row |= {"low": share_text(low), "high": share_text(high)}
    return row


def _because(pressed: PressResult, name: str, units: Units) -> str:
    """Why a risk is what it is; nothing where it cannot happen."""
    r, p = pressed.reached, pressed.piece
    hottest = temperature_text(float(r.hottest_c[0]), units)
    if name == "scorch":
        return (
            f"{share_text(float(r.scorch[0]))} of the heat that begins to mark it; a minute at "
            f"{temperature_text(p.scorch_c, units)} does, and it reaches {hottest}"
        )
    if name == "blowout" and pressed.is_dye:
        return f"uptake {pressed.uptake:.1f}; dye spreads sideways above {p.spreads_from:.1f}"
    if name == "rim" and pressed.has_film:
        share = share_text(float(r.flow_kpa_s[0]) / p.adhesive.halved_kpa_s)
        return f"{share} of what squeezes half of the adhesive out"
    if name == "migration" and pressed.has_film and p.migrates_c is not None and p.dyed > 0:
        begins = f"15 s at {temperature_text(p.migrates_c, units)} begin to tint a film"
        return f"dyed cloth, {share_text(p.dyed)} polyester: {begins}"
    if name == "dents" and p.softens_c is not None:
        pressure = pressure_text(pressed.request.kpa, units)
        soft = temperature_text(p.softens_c, units)
        return f"soft from {soft}; it reaches {hottest} under {pressure}"
    return ""


def how_sure(pressed: PressResult, drawn: Sampled, units: Units) -> str:
    """The outcome's interval, from what is known of its parameters."""
    low_c, high_c = (temperature_text(v, units) for v in drawn.interval(drawn.reached.last_c))
    face = f"{low_c} to {high_c} under the transfer"
    sure = f"90{NO_BREAK}% sure"
    if pressed.is_dye:
        low, high = drawn.interval(drawn.outcome.density / max(pressed.piece.share, 1e-9))
        return f"{sure}: {share_text(low)} to {share_text(high)} of full density, {face}."
    if pressed.has_film:
        low, high = drawn.interval(drawn.outcome.bond)
        return f"{sure}: {share_text(low)} to {share_text(high)} of a full bond, {face}."
    return f"{sure}: {face}."


def chain_sentence(chain: Chain) -> str:
    """What the whole recipe gives the piece, and what the steps after the press change."""
    whole, main = chain.whole, chain.main
    if whole is None or main is None or not whole.transfers:
        return "After all steps the blank is warm and dry."
    what = "full density" if whole.is_dye else "a full bond"
    sentence = f"After all steps: {share_text(whole.filled)} of {what}"
    if abs(whole.filled - main.filled) >= SAME_OUTCOME:
        sentence += f"; {share_text(main.filled)} after the press itself"
    return f"{sentence}."


def warnings(pressed: PressResult) -> list[str]:
    """What goes wrong, likeliest first."""
    sentences = [
        (pressed.risk(name), text)
        for name, text in (
            ("scorch", "Scorch: the face begins to yellow or glaze at this temperature and dwell."),
            ("blowout", "Blowout: more dye arrives than this surface can take up."),
            ("rim", "Squeeze-out: adhesive is pressed out, leaving a rim and a weaker bond."),
            ("migration", "Migration: the cloth’s own dye tints a light film."),
            ("dents", "Dents: the blank softens under this pressure."),
        )
        if pressed.risk(name) > RISK_LIMIT
    ]
    if pressed.has_film and pressed.bond < GOOD_FROM and pressed.risk("rim") <= RISK_LIMIT:
        sentences.append(
            (0.6, "Weak bond: press hotter, longer or harder so that the adhesive flows in.")
        )
    if pressed.transfers and pressed.water_g_m2 >= DAMP_FROM_G_M2:
        damp = f"{pressed.water_g_m2:.1f}{NO_BREAK}g/m²"
        sentences.append(
            (0.3, f"{damp} of water is left at the print: prepress longer, or dry the blank.")
        )
    return [text for _, text in sorted(sentences, reverse=True)]


def notes(pressed: PressResult) -> list[str]:
    """What is worth knowing and no fault."""
    share = pressed.piece.share
    if pressed.is_dye and 0 < share < WEAK_SHARE:
        return [
            f"This cloth holds {share_text(share)} of the dye that pure polyester would: a faded, "
            "vintage look at best."
        ]
    return []


def outside_text(step: RecipeStep, request: PressRequest, units: Units) -> str:
    """What of a setting lies outside the recipe's window; nothing inside it."""
    found = outside_window(step, request.true_c, request.dwell_s, request.kpa)
    sentences = [_outside(one, step, units) for one in found]
    return f"Outside the recipe’s window: {'; '.join(sentences)}." if sentences else ""


def _outside(one: Outside, step: RecipeStep, units: Units) -> str:
    if one.what == "temperature":
        low, high = (temperature_text(v, units) for v in one.window)
        return f"{temperature_text(one.value, units)} true instead of {low} to {high}"
    if one.what == "dwell":
        window = f"{one.window[0]:g} to {one.window[1]:g}{NO_BREAK}s"
        return f"{one.value:g}{NO_BREAK}s instead of {window}"
    window = pressures_text(*one.window, units)
    return f"{pressure_text(one.value, units)} instead of {step.pressure}, {window}"


def overload_text(blank: BlankProperties, kpa: float, units: Units) -> str:
    """That a blank would be overloaded, said before anything else; nothing where it is not."""
    if not is_overloaded(blank, kpa):
        return ""
    does = "it breaks" if blank.kind in BRITTLE_KINDS else "it dents or bends"
    return (
        f"Too much pressure for {blank.name}: {pressure_text(kpa, units)}, and it takes at most "
        f"{pressure_text(blank.limit_kpa, units)}. Above that {does}."
    )


def hover_headline(hover: HoverOutcome, units: Units) -> str:
    """What a hovering platen does, in one sentence."""
    did, not_yet = ("melts", "stays grainy") if hover.is_powder else ("dries", "stays damp")
    what = "The powder" if hover.is_powder else "The print"
    if hover.is_good:
        return f"{what} {did} everywhere, {_hottest(hover, units)}."
    if hover.is_good_turned:
        return f"{what} {did} everywhere if you turn the piece half-way, {_hottest(hover, units)}."
    worst = PLACES[int(hover.done_turned.argmin())]
    return (
        f"{what} {not_yet} at the {worst}: {share_text(float(hover.done_turned.min()))} of it "
        f"{'melted' if hover.is_powder else 'dry'} even when turned."
    )


def _hottest(hover: HoverOutcome, units: Units) -> str:
    low, high = (
        temperature_text(float(v), units) for v in (hover.hottest_c.min(), hover.hottest_c.max())
    )
    return f"at {low} to {high}"


def hover_rows(hover: HoverOutcome, units: Units) -> list[dict[str, Any]]:
    """Each place under a hovering platen: its gap, how hot it gets, and what is done there."""
    return [
        {
            "place": place,
            "gap_mm": gap,
            "hottest": temperature_text(float(hottest), units),
            "done": share_text(float(done)),
            "turned": share_text(float(turned)),
        }
        for place, gap, hottest, done, turned in zip(
            PLACES, hover.gaps_mm, hover.hottest_c, hover.done, hover.done_turned, strict=True
        )
    ]
