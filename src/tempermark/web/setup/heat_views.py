"""What the heat does to a recipe's stack on a press, before a blank is spent."""

from django import forms
from django.db.models import F
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.core.metrology.usable import Rectangle
from tempermark.core.pressure.contact import middle_kpa
from tempermark.core.recipes.stack_rules import faults
from tempermark.core.thermal.sampled import sample
from tempermark.core.units import fahrenheit_from_celsius
from tempermark.web.floor.models import Element
from tempermark.web.kit.forms import (
    DwellField,
    LengthField,
    PressureField,
    TemperatureField,
    UnitForm,
)
from tempermark.web.measure import queries as surveys
from tempermark.web.setup import heat, heat_charts, heat_words, queries
from tempermark.web.setup.heat_platen import advice_text, outcome_chart, over_platen, sentence
from tempermark.web.setup.models import Blank, Recipe, RecipeVersion

HUMIDITY = 50.0
# What a display that was never checked is known to, standard, K (presses run hot or cold by 15).
NEVER_SD_C = 6.0


class HeatForm(UnitForm):
    """The press, the blank, and what is set."""

    element = forms.ModelChoiceField(
        Element.objects.filter(taken_out_on=None).select_related("press"),
        label="Press",
        empty_label=None,
    )
    blank = forms.ModelChoiceField(Blank.objects.all(), label="Blank", empty_label=None)
    set_c = TemperatureField(label="Dial", low=20, high=400)
    dwell_s = DwellField(label="Dwell", low=1, high=1800)
    contact_kpa = PressureField(label="Contact", low=1, high=300)
    humidity = forms.FloatField(label="Room humidity, %", min_value=0, max_value=100)
    art_x_mm = LengthField(label="Art from the left", required=False, low=0, high=5000)
    art_y_mm = LengthField(label="from the front", required=False, low=0, high=5000)
    art_width_mm = LengthField(label="Art, across", required=False, low=1, high=5000)
    art_height_mm = LengthField(label="front to back", required=False, low=1, high=5000)
    at_s = forms.FloatField(
        label="Moment",
        min_value=0,
        max_value=1800,
        required=False,
        widget=forms.NumberInput(attrs={"type": "range", "min": 0, "step": "any"}),
    )


@require_GET
def page(request, slug):
    """The stack as a section, the course of the heat, and the outcome."""
    return render(request, "setup/heat.html", _context(request, slug))


@require_GET
def fragment(request, slug):
    """The same again, for another setting or moment."""
    return render(request, "setup/_heat.html", _context(request, slug))


def _context(request, slug) -> dict:
    unit = request.user.temperature_unit
    recipe = get_object_or_404(Recipe, slug=slug)
    version = queries.current_version(recipe)
    asked = request.GET if "dwell_s" in request.GET else None
    form = HeatForm(asked or _usual(request, version, unit), unit=unit)
    context = {"recipe": recipe, "version": version, "form": form, "dwell_s": version.high_s}
    if not form.is_valid():
        return context
    data = form.cleaned_data
    true_c, spread = heat.true_under(data["element"], data["set_c"], timezone.now())
    made = heat.pressed(
        version,
        data["blank"],
        true_c,
        data["dwell_s"],
        data["contact_kpa"],
        data["humidity"] / 100,
    )
    context["faults"] = faults(
        heat.stacked(version, data["blank"], data["element"], data["humidity"])
    )
    context |= {"true_c": true_c, "spread_c": spread and 2 * spread, "press": data["element"].press}
    if made is None:
        return context
    at_s = min(data["at_s"] if data["at_s"] is not None else data["dwell_s"], data["dwell_s"])
    return context | {
        "made": made,
        "at_s": at_s,
        "dwell_s": data["dwell_s"],
        "headline": heat_words.headline(made, unit),
        "warnings": heat_words.warnings(made),
        "section": heat_charts.stack_section(made, at_s, unit),
        "course": heat_charts.course_chart(made, at_s, unit),
    }


@require_GET
def platen(request, slug):
    """The outcome at every place of the platen, with its own temperature and pressure."""
    context = _context(request, slug)
    made = context.get("made")
    if made is not None:
        data = context["form"].cleaned_data
        element = data["element"]
        needed = context["version"].low_s / 2
        art = _art(element, data)
        outcome = over_platen(element, made, data["set_c"], timezone.now(), needed, art)
        if outcome is not None:
            context |= {
                "outcome": outcome,
                "chart": outcome_chart(element, outcome),
                "told": sentence(outcome),
                "advice": advice_text(
                    outcome,
                    data["set_c"],
                    element.press.resolution_c,
                    request.user.temperature_unit,
                ),
            }
    return render(request, "setup/_platen.html", context)


@require_GET
def sure(request, slug):
    """How sure the outcome is: the same with its parameters drawn."""
    context = _context(request, slug)
    made = context.get("made")
    if made is not None:
        spread = context["spread_c"]
        # A display nobody checked may be 15 K off: standard some 6.
        drawn = sample(made.closing, made.interface, NEVER_SD_C if spread is None else spread / 2)
        unit = request.user.temperature_unit
        told = (heat_words.how_sure(made, drawn), heat_words.how_warm(drawn, unit))
        context["told"] = " ".join(t for t in told if t)
    return render(request, "setup/_sure.html", context)


def _art(element, data) -> Rectangle:
    """The art as asked, else the middle half of the platen."""
    names = ("art_x_mm", "art_y_mm", "art_width_mm", "art_height_mm")
    given = [data.get(name) for name in names]
    wide, high = element.width_mm, element.height_mm
    usual = (wide / 4, high / 4, wide / 2, high / 2)
    return Rectangle(*(u if g is None else g for g, u in zip(given, usual, strict=True)))


def _usual_art(element: Element | None) -> dict:
    if element is None:
        return {}
    art = _art(element, {})
    return {f"art_{name}": f"{value:.0f}" for name, value in vars(art).items()}


def _usual(request, version: RecipeVersion, unit: str) -> dict:
    """The first press with its advised dial, a blank of the recipe's kind, the middle dwell."""
    elements = Element.objects.filter(taken_out_on=None).order_by("press__place", "pk")
    asked = request.GET.get("press", "")
    element = elements.filter(press__slug=asked).first() or elements.first()
    # What takes most dye first: the recipe's own kind is what it was written for.
    most_dye = F("polyester").desc(nulls_last=True)
    kind = Blank.objects.filter(kind=version.recipe.blank_kind).order_by(most_dye, "name")
    blank = kind.first() or Blank.objects.first()
    advice = surveys.advice(element, version.middle_c, timezone.now()) if element else None
    dial = advice.set_c if advice else version.middle_c
    return {
        "element": element.pk if element else "",
        "blank": blank.pk if blank else "",
        "set_c": f"{fahrenheit_from_celsius(dial) if unit == 'f' else dial:.0f}",
        "dwell_s": f"{(version.low_s + version.high_s) / 2:g}",
        "contact_kpa": f"{middle_kpa(version.pressure):g}",
        "humidity": f"{HUMIDITY:g}",
        "at_s": "",
        **_usual_art(element),
    }
