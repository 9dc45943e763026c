"""The blank, its material and the art on it: what they make likely or rule out."""

import numpy as np

from tempermark.core.constants import expansion_per_k
from tempermark.core.diagnosis.case import Case
from tempermark.core.diagnosis.weighing.measures.basis import Curves, Evidence, weigh
from tempermark.core.phrases import length, phrase, temperature
from tempermark.core.preparing.size.growth import ROOM_C, growth_per_side_mm
from tempermark.core.thermal.library.materials import materials


def synthetic_cloth(case: Case, curves: Curves) -> Evidence | None:
    """Polyester knits shrink under heat."""
    share = case.blank.polyester
    if share is None:
        return None
    return Evidence(0.5 if share >= 0.5 else -1.0 if share <= 0.1 else 0.0, _polyester(share))


def _polyester(share: float) -> str:
    return f"{share:.0%} polyester".replace("%", " %")


def humid_air(case: Case, curves: Curves) -> Evidence | None:
    """Room humidity."""
    humidity = case.relative_humidity
    if humidity is None:
        return None
    return Evidence(
        weigh(curves["humidity"], humidity), f"{humidity:.0%} relative humidity".replace("%", " %")
    )


def thirsty_blank(case: Case, curves: Curves) -> Evidence | None:
    """Cotton holds water, polyester hardly any."""
    share = case.blank.polyester
    if share is None or case.blank.kind not in ("garment", "bag", "cap"):
        return None
    log_odds = 0.5 if share <= 0.3 else -0.6 if share >= 0.9 else 0.0
    return Evidence(log_odds, _polyester(share))


def large_panel(case: Case, curves: Curves) -> Evidence | None:
    """On large rigid panels vapour has far to go."""
    sides = [s for s in (case.blank.width_mm, case.blank.height_mm) if s]
    if not sides:
        return None
    text = phrase("a panel of {side} on its longer side", side=length(max(sides)))
    return Evidence(weigh(curves["panel_side"], max(sides)), text)


def art_not_larger(case: Case, curves: Curves) -> Evidence | None:
    """Art and blank compared."""
    blank, art = case.blank, case.art
    pairs = [(art.width_mm, blank.width_mm), (art.height_mm, blank.height_mm)]
    known = [(a, b) for a, b in pairs if a is not None and b is not None]
    if not known:
        return None
    margin = min(a - b for a, b in known)
    text = phrase("art {margin} against the blank", margin=length(margin, 1, signed=True))
    return Evidence(3.0 if margin <= 0.5 else -2.0, text)


def blank_growth_mm(case: Case) -> tuple[float, float] | None:
    """Growth per side (width, height) in mm of the heated blank; None if unknown."""
    alpha = expansion_per_k(case.blank.material or "")
    window = case.recipe.temperature_c
    middle = sum(window) / 2 if window else None
    hot = case.actual.measured_c or case.actual.set_c or middle
    if alpha is None or hot is None or case.blank.width_mm is None or case.blank.height_mm is None:
        return None
    cold = case.ambient_c if case.ambient_c is not None else ROOM_C
    return (
        growth_per_side_mm(case.blank.width_mm, alpha, cold, hot),
        growth_per_side_mm(case.blank.height_mm, alpha, cold, hot),
    )


def growth_over_bleed(case: Case, curves: Curves) -> Evidence | None:
    """Growth per side against the bleed that the art left."""
    growth = blank_growth_mm(case)
    if growth is None or case.art.width_mm is None or case.art.height_mm is None:
        return None
    placing = case.art.placement_mm or 0.0
    wide, high = case.blank.width_mm or 0.0, case.blank.height_mm or 0.0
    bleeds = (
        (case.art.width_mm - wide) / 2 - placing,
        (case.art.height_mm - high) / 2 - placing,
    )
    side = int(np.argmax(np.subtract(growth, bleeds)))
    text = phrase(
        "grows {growth} per side, bleed left over {bleed}",
        growth=length(growth[side], 1),
        bleed=length(bleeds[side], 1),
    )
    return Evidence(weigh(curves["growth"], growth[side] - bleeds[side]), text)


def polyester_share(case: Case, curves: Curves) -> Evidence | None:
    """Density goes with the polyester share."""
    share = case.blank.polyester
    if share is None:
        return None
    return Evidence(weigh(curves["polyester"], share), _polyester(share))


def softening(case: Case, curves: Curves) -> Evidence | None:
    """Plastics that soften below the platen."""
    known = materials().get(case.blank.material or "")
    limit = known.softens_c if known and known.group == "plastic" else None
    hot = case.actual.measured_c or case.actual.set_c
    if limit is None or hot is None:
        return None
    text = phrase(
        "{material} softens near {limit}, platen {hot}",
        material=case.blank.material or "",
        limit=temperature(limit),
        hot=temperature(hot),
    )
    return Evidence(1.5 if hot > limit else -1.5, text)


def dyed_polyester(case: Case, curves: Curves) -> Evidence | None:
    """Only polyester gives up its dye to a film."""
    share = case.blank.polyester
    if share is None:
        return None
    return Evidence(0.8 if share >= 0.5 else -3.0 if share <= 0.1 else 0.0, _polyester(share))
