"""Temperature and pressure on one platen, and where both hold for a recipe."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.core.pressure.map.level import LEVEL_ENOUGH_MM
from tempermark.core.pressure.press.contact import CLASS_KPA
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.measure.models import Survey
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.press.press_temperature import advised_dial
from tempermark.web.measure.surveys import queries as temperatures
from tempermark.web.measure.surveys.charts import PlatenChart, bare_platen, draw_deviation
from tempermark.web.presses.models import Element, Press
from tempermark.web.presses.queries import element_in_use
from tempermark.web.pressure import mapping, queries
from tempermark.web.pressure.maps import charts, words
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.recipes.models import RecipeVersion


@require_GET
def combined_map(request: Request, slug: str) -> HttpResponse:
    """Temperature and pressure on one platen, and where both hold for a recipe."""
    element = element_in_use(slug, request.GET.get("element", ""))
    press = element.press
    version = _version(request)
    wanted = version.pressure if version else "medium"
    pressed = queries.latest(element)
    warm = temperatures.latest_survey(element)
    chart = bare_platen(element, request.user.units)
    context: dict[str, Any] = {
        "press": press,
        "element": element,
        "version": version,
        "versions": current_versions(),
        "wanted": wanted,
        "span": CLASS_KPA[wanted],
        "pressed": pressed,
        "warm": warm,
        "chart": chart,
        "maps": list(queries.surveys(element)[:24]),
    }
    computed = mapping.compute(pressed) if pressed else None
    pressure_map = computed.map if computed else None
    warmth = _warmth(request, element, warm, version, chart)
    context["needed_c"] = warmth["dial_c"] if warmth else None
    if pressure_map is not None:
        charts.draw_pressure(chart, pressure_map, wanted)
        context["pressure_headline"] = words.mapped_headline(computed, element.called)
    if warmth and pressure_map is not None:
        found = charts.both_hold(
            warmth["grid"], warmth["deviation_c"], warmth["tolerance_c"], pressure_map, wanted
        )
        charts.mark_rectangle(chart, found.rectangle)
        context["found"] = found
    chart.summary = _both_summary(context)
    context["history"] = charts.tilt_history(context["maps"], LEVEL_ENOUGH_MM, request.user.units)
    context["now"] = timezone.now()
    return render(request, "pressure/combined_map.html", context)


def _version(request: Request) -> RecipeVersion | None:
    text = request.GET.get("recipe", "")
    versions = RecipeVersion.objects.select_related("recipe")
    return versions.filter(pk=row_key(text)).first()


def _warmth(
    request: Request, element: Element, survey_: Survey | None, version: Any, chart: PlatenChart
) -> dict[str, Any] | None:
    """The temperature map at the dial advised for the recipe (or as usual), drawn on the chart."""
    if survey_ is None:
        return None
    computed = compute_survey(survey_)
    mapped = computed.result.map if computed.result else None
    if mapped is None:
        return None
    target = version.middle_c if version else survey_.target_c
    tolerance = (version.high_c - version.low_c) / 2 if version else survey_.tolerance_c
    advice = advised_dial(element, target, timezone.now())
    # The shape at the advised dial, its mean on the target.
    deviation = mapped.map_c - mapped.map_c.mean()
    draw_deviation(chart, mapped.grid, deviation, tolerance, request.user.units)
    return {
        "grid": mapped.grid,
        "deviation_c": deviation,
        "tolerance_c": tolerance,
        "dial_c": advice.set_c if advice else None,
    }


def _both_summary(context: dict[str, Press]) -> str:
    parts = [name for name in ("warm", "pressed") if context[name] is not None]
    if not parts:
        return "Platen without maps yet."
    found = {"warm": "lines of temperature", "pressed": "lines of pressure"}
    return "Platen with " + " and ".join(found[p] for p in parts) + "."
