"""Recipes pressed on this shop's blanks with its materials: each question is computed once."""

from functools import lru_cache

from tempermark.core.pressing.chain import Chain, press_chain
from tempermark.core.pressing.closing import Pressed, press_once
from tempermark.core.pressing.request import PressRequest
from tempermark.core.recipes.steps import Sheet
from tempermark.web.setup.library import ShopLibrary

# Pages ask the same again for each of their parts, and lists for the same pieces every time. A
# course takes some 60 kB.
KEPT = 512


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


@lru_cache(maxsize=KEPT)
def once(request: PressRequest, library: ShopLibrary) -> Pressed | None:
    """One step by itself (core/pressing/closing.py)."""
    return press_once(request, library)
