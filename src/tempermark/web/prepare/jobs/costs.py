"""What a job uses and what that costs."""

from collections.abc import Iterator

from tempermark.core.preparing.coating.coats import sprayed_ml
from tempermark.core.preparing.costs.piece_cost import (
    HANDLING_S,
    PREPARING_S,
    CostLine,
    PieceCost,
    energy_kwh,
)
from tempermark.core.preparing.costs.wear import LIVES, USUAL_LIFE
from tempermark.core.preparing.size.growth import taping
from tempermark.core.pressing.request import main_request
from tempermark.core.recipes.layers import code_of
from tempermark.web.heat.simulate import pressing
from tempermark.web.jobs.models import Job
from tempermark.web.prepare.jobs.lines import piece_of
from tempermark.web.prepare.jobs.placing import placement
from tempermark.web.presses.queries import fitted_first
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.supplies.models import PRICED
from tempermark.web.supplies.queries import blank_price, prices

# Sheets of a stack that are used again; tape at one corner, m; beyond the art a coat is sprayed
# so far, mm.
COVERS = ("plain_paper", "parchment", "ptfe_sheet", "wicking_cloth")
TAPE_AT_CORNER_M, SPRAYED_BEYOND_MM = 0.03, 20.0
CORNERS = {"all_corners": 4, "two_opposite": 2}
# Methods whose art is cut or printed film and not paper, and those without a print.
FILM_METHODS, UNPRINTED = ("heat_transfer_film", "transfer_paper"), ("heat_transfer_film", "patch")


def piece_cost(job: Job) -> PieceCost:
    """One piece of a job by the shop's prices."""
    known = prices()
    lines = tuple(
        CostLine(name, amount, unit, blank_price(job.blank) if code == "blank" else known.get(code))
        for code, name, amount, unit in _uses(job)
    )
    return PieceCost(lines, None if job.charge is None else float(job.charge))


def _uses(job: Job) -> Iterator[tuple[str, str, float, str]]:
    """Code of the price, name, amount and unit of all that one piece uses."""
    yield "blank", job.blank.name, 1.0, ""
    method = job.recipe.recipe.method
    wide, high = placement(job).placed.page_mm
    area = wide * high * 1e-6
    if method != "patch":
        yield _priced("film" if method in FILM_METHODS else "paper", area)
    if method not in UNPRINTED:
        yield _priced("ink", area)
    coats = sum(step.kind == "coat" for step in job.recipe.sheet.steps)
    if method == "spray_coating" and coats:
        sprayed = (wide + 2 * SPRAYED_BEYOND_MM) * (high + 2 * SPRAYED_BEYOND_MM) * 1e-6
        yield _priced("coating", sprayed_ml(sprayed, coats) / 1000)
    codes = [code_of(entry) for entry in job.recipe.stack]
    for code in COVERS:
        if code in codes:
            yield _priced(code, codes.count(code) / LIVES.get(code, USUAL_LIFE))
    if piece_of(job).is_taped:
        yield _priced("tape", CORNERS[taping((wide, high))] * TAPE_AT_CORNER_M)
    yield _priced("kwh", _power(job))
    yield _priced("hour", minutes_of(job) / 60)


def _priced(code: str, amount: float) -> tuple[str, str, float, str]:
    name, unit = PRICED[code]
    return code, name, amount, unit


def closed_s(job: Job) -> float:
    """How long the press is closed on one piece: the middles of all its heated steps, s."""
    return sum((step.low_s + step.high_s) / 2 for step in job.recipe.heated_steps)


def minutes_of(job: Job) -> float:
    """Work on one piece, min: as somebody typed it, else its dwell, handling and preparing."""
    if job.minutes is not None:
        return job.minutes
    return (closed_s(job) + HANDLING_S + PREPARING_S) / 60


def _power(job: Job) -> float:
    """kWh of one piece: what the solver says went into it, and the platen's loss meanwhile."""
    library = shop_materials()
    blank = core_blank(job.blank, library)
    element = fitted_first().filter(press=job.press).first()
    platen_m2 = element.width_mm * element.height_mm * 1e-6 if element else 0.2
    into = 0.0
    try:
        pressed = pressing.once(main_request(job.recipe.sheet, blank), library)
        into = float(pressed.course.energy_in[0]) if pressed else 0.0
    except (ValueError, KeyError):
        into = 0.0
    piece_m2 = blank.area_m2 or platen_m2
    return energy_kwh(into, min(piece_m2, platen_m2), platen_m2, closed_s(job), HANDLING_S)
