"""What the heat does to a recipe's stack on a press, before a blank is spent."""

from dataclasses import replace
from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.core.pressing.closing import HOVER_GAP_MM, PressResult
from tempermark.core.pressing.hover import HoverOutcome, hover_outcome
from tempermark.core.pressing.limits import refusal
from tempermark.core.pressing.request import WORKING_PAD_C, PressRequest, as_coated
from tempermark.core.recipes.layers import code_of, entry_text
from tempermark.core.recipes.stack_rules import faults
from tempermark.core.recipes.steps import MAIN, WITHOUT_CONTACT
from tempermark.core.thermal.library.materials import GROUPS
from tempermark.core.thermal.result.dye import UNTAUGHT
from tempermark.core.thermal.result.sampled import sample
from tempermark.web.accounts.requests import Request
from tempermark.web.heat.lessons import held
from tempermark.web.heat.lessons.scored import Spoken, disagreement
from tempermark.web.heat.simulate import charts as heat_charts
from tempermark.web.heat.simulate import on_press, pressing
from tempermark.web.heat.simulate import words as heat_words
from tempermark.web.heat.simulate.forms import SHOWN, Chosen, HeatForm, art_of, chosen, usual
from tempermark.web.heat.simulate.platen import (
    PlatenOutcome,
    advice_text,
    dial_for_art,
    grid_of,
    outcome_chart,
    outcome_over,
    sentence,
)
from tempermark.web.heat.simulate.stack_building import lies_below_blank, may_turn
from tempermark.web.heat.windows.windows import NEVER_SD_C
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import in_units
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.blanks.sleeves import sleeve_sentence
from tempermark.web.recipes.cards import queries
from tempermark.web.recipes.materials.library import ShopLibrary, shop_materials
from tempermark.web.recipes.models import Recipe, RecipeVersion


@require_GET
def page(request: Request, slug: str) -> HttpResponse:
    """The stack as a section, the course of the heat, and the outcome."""
    return render(request, "heat/heat.html", _drawn(request, slug))


@require_GET
def fragment(request: Request, slug: str) -> HttpResponse:
    """The same again, for another setting, moment or stack."""
    return render(request, "heat/_heat.html", _drawn(request, slug))


def _drawn(request: Request, slug: str) -> dict[str, Any]:
    """What is asked and what comes of it, with its drawings."""
    context = _context(request, slug)
    result, units = context.get("pressed"), request.user.units
    if result is None:
        return context
    at_s, library, hover = context["at_s"], context["library"], context["hover"]
    return context | {
        "headline": heat_words.hover_headline(hover, units)
        if hover
        else heat_words.headline(result, units),
        "hover_rows": heat_words.hover_rows(hover, units) if hover else None,
        "outside": heat_words.outside_text(context["picked"].step, context["press_request"], units),
        "warnings": heat_words.warnings(result),
        "notes": heat_words.notes(result),
        "section": heat_charts.stack_section(result, at_s, units, library),
        "course": heat_charts.course_chart(result, at_s, units),
        "scored": _scored(context, result),
    }


def _scored(context: dict[str, Any], pressed: PressResult) -> Spoken | None:
    """What the shop's own pieces say where they disagree with the computation."""
    if context["picked"].step.kind != MAIN or not pressed.transfers:
        return None
    data = context["form"].cleaned_data
    return disagreement(context["version"], data["element"], data["blank"], data["set_c"], pressed)


def _context(request: Request, slug: str, over_platen: bool = False) -> dict[str, Any]:
    units = form_units(request)
    recipe = get_object_or_404(Recipe, slug=slug)
    version = queries.current_version(recipe)
    library = shop_materials()
    picked = chosen(request.GET, version, library)
    query = request.GET if "dwell_s" in request.GET else None
    form = HeatForm(query or usual(request.GET, version, picked.step, units), units=units)
    form.offer(version)
    longest = picked.step.time_s[1] if picked.step.time_s else version.high_s
    context = {
        "recipe": recipe,
        "version": version,
        "form": form,
        "dwell_s": longest,
        "picked": picked,
        "steps": _heated_steps(version),
        "layers": _layer_rows(picked, library, request.user.units),
        "groups": _grouped(library),
    }
    if not form.is_valid():
        return context
    return context | _answer(
        form.cleaned_data, version, picked, library, over_platen, request.user.units
    )


def _answer(
    data: dict[str, Any],
    version: RecipeVersion,
    picked: Chosen,
    library: ShopLibrary,
    over_platen: bool,
    units: Units,
) -> dict[str, Any]:
    element = data["element"]
    places = grid_of(element).places_mm if over_platen else None
    position = on_press.platen_temperature(element, data["set_c"], timezone.now(), places)
    blank = as_coated(core_blank(data["blank"], library), version.sheet)
    request = PressRequest(
        step=picked.step,
        method=version.recipe.method,
        stack=picked.stack,
        blank=blank,
        true_c=position.true_c,
        dwell_s=data["dwell_s"],
        kpa=data["contact_kpa"],
        humidity=data["humidity"] / 100,
        pad_c=WORKING_PAD_C if data["pad_c"] is None else data["pad_c"],
        dips=data["dips"],
    )
    request = held.with_lessons(on_press.on_element(request, element))
    answer = {
        "faults": faults(on_press.stacked(request, element)),
        "stands": position,
        "true_c": position.true_c,
        "spread_c": position.sd_c and 2 * position.sd_c,
        "press": element.press,
        "blank": data["blank"],
        "library": library,
        "overload": heat_words.overload_text(blank, request.kpa, units),
        "sleeve": sleeve_sentence(element, data["blank"], units),
    }
    refused = refusal(blank, library)
    if refused is not None:
        return answer | {"refused": refused}
    chain, result = _pressed(version, picked, request, library, element, data["after"])
    if result is None:
        return answer
    at_s = min(data["at_s"] if data["at_s"] is not None else data["dwell_s"], data["dwell_s"])
    return answer | {
        "pressed": result,
        "chain": chain,
        "press_request": request,
        "at_s": at_s,
        "dwell_s": data["dwell_s"],
        "starts_c": chain.starts_c if chain and chain.has_steps_before else None,
        "dip_c": float(result.course.upper_c.min()) if request.dips else None,
        "hover": _hover(request, element, library),
    }


def _pressed(
    version: RecipeVersion,
    picked: Chosen,
    request: PressRequest,
    library: ShopLibrary,
    element: Element,
    after: bool,
) -> tuple[Any, ...]:
    """The chain and its main press; a step that is not the main press by itself."""
    if picked.step.kind != MAIN:
        return None, pressing.once(request, library)
    timer = element.press.timer_max_s
    chain = pressing.chain_of(version.sheet, picked.school, request, library, timer, after)
    return chain, chain.main


def _hover(request: PressRequest, element: Element, library: ShopLibrary) -> HoverOutcome | None:
    """What a step without contact does; None for one that touches."""
    if request.step.kind not in WITHOUT_CONTACT:
        return None
    step = replace(request.step, gap_mm=request.step.gap_mm or HOVER_GAP_MM)
    return hover_outcome(replace(request, step=step), element.press.kind, library)


def _heated_steps(version: RecipeVersion) -> list[tuple[int, str]]:
    steps = enumerate(version.sheet.steps)
    return [(n, step.name) for n, step in steps if step.is_heated and step.stack]


def _layer_rows(picked: Chosen, library: ShopLibrary, units: Units) -> list[dict[str, Any]]:
    return [
        {
            "number": n,
            "entry": entry,
            "text": in_units(entry_text(entry, library), units),
            "known": code_of(entry) in library,
            "may_turn": may_turn(entry, library),
            "may_be_inside": lies_below_blank(picked.stack, n),
        }
        for n, entry in enumerate(picked.stack)
    ]


def _grouped(library: ShopLibrary) -> list[tuple[str, list[Any]]]:
    ordered = sorted(library.values(), key=lambda m: m.label)
    return [(label, [m for m in ordered if m.group == g]) for g, label in GROUPS.items()]


@require_GET
def platen(request: Request, slug: str) -> HttpResponse:
    """The outcome at every place of the platen, with its own temperature and pressure."""
    context = _context(request, slug, over_platen=True)
    result = context.get("pressed")
    if result is None or not result.transfers:
        return render(request, "heat/_platen.html", context)
    data = context["form"].cleaned_data
    element, units = data["element"], request.user.units
    art = art_of(element, data)
    outcome = outcome_over(element, result, context["stands"], timezone.now(), art)
    if outcome is not None:
        step_c = element.press.resolution_c
        dial = dial_for_art(outcome, data["set_c"], step_c)
        context |= {
            "outcome": outcome,
            "chart": outcome_chart(element, outcome, units, data["shown"]),
            "shown": dict(SHOWN)[data["shown"]],
            "summary": sentence(outcome),
            "advice": advice_text(outcome, data["set_c"], step_c, result, units),
            "take": temperature_text(dial, units) if _may_take(outcome, step_c) else "",
        }
    return render(request, "heat/_platen.html", context)


def _may_take(outcome: PlatenOutcome, step_c: float) -> bool:
    """Whether the advice is another dial than the one set."""
    shift = outcome.advice.shift_c
    return shift is not None and abs(shift) >= step_c / 2


@require_GET
def uncertainty(request: Request, slug: str) -> HttpResponse:
    """How sure the outcome is: the same with its parameters drawn."""
    context = _context(request, slug)
    result = context.get("pressed")
    if result is not None:
        spread = context["spread_c"]
        sd_c = NEVER_SD_C if spread is None else spread / 2
        known = result.request.law_known or (result.receiver.known if result.receiver else UNTAUGHT)
        drawn = sample(result.closing, result.piece, sd_c, known)
        context["imbalance"] = f"{abs(float(result.course.imbalance[0])):.0e}"
        context["summary"] = heat_words.how_sure(result, drawn, request.user.units)
        context["rows"] = heat_words.outcome_rows(result, request.user.units, drawn)
    return render(request, "heat/_uncertainty.html", context)


@require_GET
def row(request: Request, slug: str) -> HttpResponse:
    """The heated steps one after the other, with openings and cooling between them."""
    context = _context(request, slug)
    chain = context.get("chain")
    if chain is not None and len(chain.stretches) > 1:
        units = request.user.units
        context |= {
            "row": chain,
            "row_chart": heat_charts.chain_chart(chain, units),
            "row_summary": heat_words.chain_sentence(chain),
            "timer_max_s": context["press"].timer_max_s,
        }
    return render(request, "heat/_row.html", context)
