"""Helpers about heat: when a piece is cold, how to hover, how long a platen takes."""

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.core.phrases import rough_wait_text
from tempermark.core.preparing.heat.cooling_places import (
    PACK_C,
    PEEL_WARM_C,
    PLACES,
    CoolingPlace,
    LeavingPiece,
    cooling_time,
)
from tempermark.core.preparing.heat.hovering import HoverPlan, hover_plan
from tempermark.core.preparing.size.growth import ROOM_C
from tempermark.core.pressing.closing import HOVER_GAP_MM
from tempermark.core.pressing.hover import PLACES as HOVER_PLACES
from tempermark.core.pressing.request import PressRequest, main_request
from tempermark.core.recipes.steps import RecipeStep
from tempermark.core.thermal.cooling import TOUCH_C
from tempermark.core.thermal.library.materials import materials
from tempermark.web.accounts.requests import Request
from tempermark.web.jobs.models import Job
from tempermark.web.jobs.queries import jobs_in_full
from tempermark.web.kit.figures import length_text, share_text, temperature_text
from tempermark.web.kit.forms.fields import as_typed
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.measure.press.press_temperature import advised_dial
from tempermark.web.prepare.jobs.cooling import leaving_job
from tempermark.web.prepare.tools.heat_forms import CoolingForm, HoverForm
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.core import core_blank, material_of
from tempermark.web.recipes.materials.library import ShopLibrary, shop_materials
from tempermark.web.recipes.models import Blank, RecipeVersion

USUAL_PIECE = {"thickness_mm": 1.1, "start_c": 190.0, "room_c": ROOM_C}
USUAL_MATERIAL = "aluminium_panel"
VESSEL_WALLS = ("stoneware_wall", "steel_wall")
# A turn that saves less than this share of the time is not worth a hot platen.
WORTH_A_TURN = 0.1
# What is waited for, by its temperature.
UNTIL = (("a warm peel", PEEL_WARM_C), ("a bare hand", TOUCH_C), ("packing", PACK_C))


@dataclass(frozen=True)
class CoolingRow:
    """A place, with a wait for each thing that is waited for; None where it never is."""

    place: CoolingPlace
    waits: list[Any]


@require_GET
def cooling(request: Request) -> HttpResponse:
    """When a hot piece may be peeled, touched and packed, by where it is laid."""
    units = form_units(request)
    job = _job(request)
    form = CoolingForm(request.GET if "start_c" in request.GET else _piece(job, units), units=units)
    context: dict[str, Any] = {"form": form, "job": job, "until": [name for name, _ in UNTIL]}
    if form.is_valid():
        data = form.cleaned_data
        piece = _leaving(data)
        rows = [
            CoolingRow(
                place, [cooling_time(piece, place, to_c, data["room_c"]) for _, to_c in UNTIL]
            )
            for place in PLACES.values()
        ]
        mine = request.user.units
        context |= {
            "rows": rows,
            "limit": temperature_text(TOUCH_C, mine),
            "headline": _cooling_headline(rows, temperature_text(data["start_c"], mine)),
        }
    return render(request, "prepare/cooling.html", context)


def _cooling_headline(rows: list[CoolingRow], start: str) -> str:
    """When a bare hand may hold it, in the two places that come first."""
    first, second = ((row.place.label, row.waits[1]) for row in rows[:2])
    if first[1] is None or second[1] is None:
        return "In a room this warm it never gets cool enough for a bare hand."
    texts = [f"after {rough_wait_text(wait.high_s)} {label}" for label, wait in (first, second)]
    return f"From {start}: touch it {texts[0]}, {texts[1]}."


def _job(request: Request) -> Job | None:
    key = row_key(request.GET.get("job", ""))
    return jobs_in_full().filter(pk=key).first() if key else None


def _piece(job: Job | None, units: Units) -> dict[str, Any]:
    """A job's own piece as the press leaves it; a thin panel where none is named."""
    values, material = dict(USUAL_PIECE), USUAL_MATERIAL
    if job is not None:
        library = shop_materials()
        material = material_of(job.blank, library)
        thickness = job.blank.thickness_mm or library[material].thickness_mm
        leaving = leaving_job(job)
        start = leaving.start_c if leaving else job.recipe.middle_c
        values |= {"thickness_mm": thickness, "start_c": round(start)}
    return as_typed(CoolingForm, values, units) | {"material": material}


def _leaving(data: dict[str, Any]) -> LeavingPiece:
    material = materials()[data["material"]]
    heat = material.density_kg_m3 * material.specific_heat_j_kgk * data["thickness_mm"] * 1e-3
    is_vessel = data["material"] in VESSEL_WALLS
    return LeavingPiece(heat, data["start_c"], data["material"], is_vessel)


@require_GET
def hover(request: Request) -> HttpResponse:
    """How long to hover at this gap, when to turn, and what melted powder looks like."""
    units = form_units(request)
    form = HoverForm(request.GET if "gap_mm" in request.GET else _usual_hover(units), units=units)
    context: dict[str, Any] = {"form": form}
    if form.is_valid():
        data = form.cleaned_data
        version, element = data["recipe"], data["element"]
        step = replace(_hover_step(version), gap_mm=data["gap_mm"])
        library = shop_materials()
        plan = _planned(_request(version, step, data, library), element.press.kind, library)
        context |= {
            "headline": _hover_headline(plan),
            "turning": _turning(plan),
            "plan": plan,
            "element": element,
            "version": version,
            "places": _places(plan, request.user.units),
            "dial": _dial(element, data["true_c"], request.user.units),
            "looks": "pebbled" if plan.outcome.is_powder else "flat",
        }
    return render(request, "prepare/hover.html", context)


def _hover_headline(plan: HoverPlan) -> str:
    if plan.turned_s is None or plan.turn_s is None:
        return "Not even 15 min are enough: go closer or hotter."
    if plan.lying_s is not None and _gains_nothing(plan.lying_s, plan.turned_s):
        return f"Hover {rough_wait_text(plan.lying_s)}."
    return f"Hover {rough_wait_text(plan.turned_s)}, turned after {rough_wait_text(plan.turn_s)}."


def _gains_nothing(lying_s: float, turned_s: float) -> bool:
    """Whether a turn saves less than anybody would notice."""
    return lying_s <= turned_s * (1 + WORTH_A_TURN)


def _turning(plan: HoverPlan) -> str:
    """What a turn is worth."""
    if plan.turned_s is None:
        return ""
    if plan.lying_s is None:
        return "Without a turn one end stays behind, however long."
    if not _gains_nothing(plan.lying_s, plan.turned_s):
        return f"Without a turn it takes {rough_wait_text(plan.lying_s)}."
    return "It need not be turned."


def _usual_hover(units: Units) -> dict[str, Any]:
    """The first recipe that hovers, on the first press, at its own gap and time."""
    form = HoverForm(units=units)
    fields: Any = form.fields
    version = fields["recipe"].queryset.first()
    element = fields["element"].queryset.first()
    if version is None or element is None:
        return {}
    step = _hover_step(version)
    low, high = step.temperature_c or (version.low_c, version.high_c)
    seconds = sum(step.time_s) / 2 if step.time_s else 60.0
    values = {
        "gap_mm": step.gap_mm or HOVER_GAP_MM,
        "true_c": (low + high) / 2,
        "seconds": seconds,
        "humidity": 50,
    }
    return as_typed(HoverForm, values, units) | {"recipe": version.pk, "element": element.pk}


def _hover_step(version: RecipeVersion) -> RecipeStep:
    return next(step for step in version.sheet.steps if step.kind == "hover")


def _request(
    version: RecipeVersion, step: RecipeStep, data: dict[str, Any], library: ShopLibrary
) -> PressRequest:
    blank = core_blank(
        Blank(name="", kind=version.recipe.blank_kind, like=version.blank_like), library
    )
    main = main_request(version.sheet, blank)
    return replace(
        main,
        step=step,
        stack=step.stack,
        true_c=data["true_c"],
        dwell_s=data["seconds"],
        humidity=data["humidity"] / 100,
    )


@lru_cache(maxsize=64)
def _planned(request: PressRequest, press_kind: str, library: ShopLibrary) -> HoverPlan:
    return hover_plan(request, press_kind, library)


def _places(plan: HoverPlan, units: Units) -> list[dict[str, str]]:
    found = plan.outcome
    return [
        {
            "name": name,
            "gap": length_text(found.gaps_mm[n], units, 1),
            "lying": share_text(float(found.done[n])),
            "turned": share_text(float(found.done_turned[n])),
            "hottest": temperature_text(float(found.hottest_c[n]), units),
        }
        for n, name in enumerate(HOVER_PLACES)
    ]


def _dial(element: Element, true_c: float, units: Units) -> str:
    advice = advised_dial(element, true_c, timezone.now())
    return temperature_text(advice.set_c, units) if advice else ""
