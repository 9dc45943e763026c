"""Recipes pressed on this shop's blanks with its materials: each question is computed once."""

from functools import lru_cache

from tempermark.core.pressing.chain import Chain, press_chain, state_before
from tempermark.core.pressing.closing import PressResult, press_once
from tempermark.core.pressing.request import PressRequest
from tempermark.core.recipes.steps import Sheet
from tempermark.core.thermal.result.dwell import Area, area, dwell_for
from tempermark.web.recipes.materials.library import ShopLibrary

# Pages ask the same again for each of their parts, and lists for the same pieces every time. A
# course takes some 60 kB.
KEPT, KEPT_AREAS = 512, 64


@lru_cache(maxsize=KEPT)
def chain_of(
    sheet: Sheet,
    school: str,
    request: PressRequest,
    library: ShopLibrary,
    timer_max_s: float | None = None,
    steps_before: bool = True,
) -> Chain:
    """A recipe's heated steps in a row (core/pressing/chain.py)."""
    return press_chain(sheet, school, request, library, timer_max_s, steps_before)


@lru_cache(maxsize=KEPT_AREAS)
def area_of(pressed: PressResult, warm_c: tuple[float, float], time_s: tuple[float, float]) -> Area:
    """What comes out between two temperatures and two dwells (core/thermal/result/dwell.py)."""
    return area(pressed.closing, pressed.piece, warm_c, time_s)


@lru_cache(maxsize=KEPT)
def dwell_like(
    pressed: PressResult, sheet: Sheet, request: PressRequest, library: ShopLibrary
) -> float | None:
    """Dwell in s with which another request comes out as `pressed`; None where it never does."""
    other = press_once(request, library, state_before(sheet, "", request, library))
    if other is None or not pressed.transfers:
        return None
    wanted = pressed.reached.uptake if pressed.is_dye else pressed.reached.flow_kpa_s
    return dwell_for(other.closing, other.piece, float(wanted[0]))


@lru_cache(maxsize=KEPT)
def once(request: PressRequest, library: ShopLibrary) -> PressResult | None:
    """One step by itself (core/pressing/closing.py)."""
    return press_once(request, library)
