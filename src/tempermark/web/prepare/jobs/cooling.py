"""What a job's piece is like when it leaves the press."""

from functools import lru_cache

from tempermark.core.preparing.heat.cooling_places import LeavingPiece, leaving_piece
from tempermark.core.pressing.request import USUAL_HUMIDITY, PressRequest, main_request
from tempermark.core.recipes.steps import Sheet
from tempermark.web.jobs.models import Job
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.materials.library import ShopLibrary, shop_materials

KEPT = 256


def leaving_job(job: Job) -> LeavingPiece | None:
    """The piece as the middle of the recipe's window leaves it, in the job's humidity; None where
    nothing is printed or the stack cannot be pressed.
    """
    library = shop_materials()
    blank = core_blank(job.blank, library)
    humidity = job.relative_humidity
    share = USUAL_HUMIDITY if humidity is None else humidity
    try:
        request = main_request(job.recipe.sheet, blank, humidity=share)
        return _leaving(job.recipe.sheet, request, library)
    except (ValueError, KeyError):
        return None


@lru_cache(maxsize=KEPT)
def _leaving(sheet: Sheet, request: PressRequest, library: ShopLibrary) -> LeavingPiece | None:
    return leaving_piece(sheet, request, library)
