"""The page of windows: shared settings, room on a press, dwells for other conditions."""

from typing import Any

from django import forms
from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from tempermark.core.pressing.closing import PressResult
from tempermark.core.pressing.limits import refusal
from tempermark.core.pressing.request import main_request
from tempermark.core.recipes.steps import Sheet
from tempermark.web.accounts.requests import Request
from tempermark.web.heat.lessons import held
from tempermark.web.heat.simulate import on_press, pressing
from tempermark.web.heat.simulate.forms import HUMIDITY, OnPressForm, usual_element
from tempermark.web.heat.windows import windows
from tempermark.web.heat.windows import words as window_words
from tempermark.web.heat.windows.charts import window_chart
from tempermark.web.heat.windows.windows import WindowAnswer
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.forms.fields import (
    DwellField,
    NumberField,
    TemperatureField,
    choice_field,
    rows_field,
)
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.measure.press.press_temperature import advised_dial
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.choice import usual_blank
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.cards import queries
from tempermark.web.recipes.materials.library import ShopLibrary, shop_materials
from tempermark.web.recipes.models import RecipeVersion

MOST_SHEETS = 8


class RecipeChoice(forms.ModelChoiceField):  # type: ignore[type-arg]  # no generic at run time
    """A recipe, as the version that holds."""

    def label_from_instance(self, version: RecipeVersion) -> str:
        """The recipe's name."""
        return version.recipe.name


class WindowRequestForm(OnPressForm):
    """Up to three recipes on a press, at a setting; and what else is asked."""

    field_order = ("recipe", "second", "third")
    recipe = RecipeChoice(None, label="Recipe", empty_label=None)
    second = RecipeChoice(None, label="with", required=False, empty_label="none")
    third = RecipeChoice(None, label="and", required=False, empty_label="none")
    dwell_s = DwellField(label="Dwell", low=1, high=1200)
    humidity = NumberField(label="Room humidity", min_value=0, max_value=100, suffix="%")
    to_c = TemperatureField(label="At another true temperature", low=100, high=260, required=False)
    sheets = forms.IntegerField(
        label="More sheets", min_value=-MOST_SHEETS, max_value=MOST_SHEETS, required=False
    )
    material = forms.ChoiceField(label="of", required=False)

    def __init__(self, *args: Any, library: ShopLibrary, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        versions = queries.current_versions()
        rows = [(pk, name) for pk, name in versions.values_list("pk", "recipe__name")]
        for name in ("recipe", "second", "third"):
            field: Any = self.fields[name]
            field.queryset = versions
            field.choices = [("", field.empty_label)] * bool(field.empty_label) + rows
        first = self.data.get("recipe") or self.initial.get("recipe")
        version = rows_field(self, "recipe").queryset.filter(pk=row_key(str(first or ""))).first()
        if version is not None:
            self.offer(version)
        covers = sorted((m for m in library.values() if m.group == "cover"), key=lambda m: m.label)
        choice_field(self, "material").choices = [(m.name, m.label) for m in covers]


@require_GET
def page(request: Request) -> HttpResponse:
    """Windows, the area that works and the press in it."""
    return render(request, "heat/windows.html", _context(request))


@require_GET
def fragment(request: Request) -> HttpResponse:
    """The answer again for another choice."""
    return render(request, "heat/_windows.html", _context(request))


def _context(request: Request) -> dict[str, Any]:
    units, library = request.user.units, shop_materials()
    query = request.GET if "dwell_s" in request.GET else None
    drawn = form_units(request)
    form = WindowRequestForm(query or _usual(request, drawn), units=drawn, library=library)
    context = {"form": form}
    if not form.is_valid():
        return context
    data = form.cleaned_data
    chosen = [v for v in (data["recipe"], data["second"], data["third"]) if v is not None]
    return context | _summary(chosen, data, library, units)


def _summary(
    chosen: list[RecipeVersion], data: dict[str, Any], library: ShopLibrary, units: Units
) -> dict[str, Any]:
    version, element = chosen[0], data["element"]
    press = windows.press_ellipse(element, data["set_c"], timezone.now())
    blank = core_blank(data["blank"], library)
    refused = refusal(blank, library)
    if refused is not None:
        return {"nothing": f"{refused.because}. {refused.instead.capitalize()}."}
    request = main_request(
        version.sheet,
        blank,
        true_c=press.true_c,
        dwell_s=data["dwell_s"],
        humidity=data["humidity"] / 100,
    )
    request = held.with_lessons(on_press.on_element(request, element))
    pressed = pressing.chain_of(version.sheet, "", request, library).main
    if pressed is None or not pressed.transfers:
        return {"nothing": f"The stack of {version.recipe.name} has no transfer on its blank."}
    spans = [windows.window_of(v) for v in {v.pk: v for v in chosen}.values()]
    answer = windows.answer(pressed, spans, press)
    dial = temperature_text(data["set_c"], units)
    sentence = window_words.headline(answer, element.press.name, dial, units)
    return {
        "press": element.press,
        "version": version,
        "pressed": pressed,
        "summary": answer,
        "headline": sentence,
        "margin": window_words.margin_sentence(answer, element.press.name, units),
        "shared_dial": _shared_dial(answer, element),
        "chart": window_chart(answer, units, sentence),
        "dwells": _dwells(pressed, data, library, version.sheet, units),
        "split": window_words.split_sentence(data["dwell_s"], element.press.timer_max_s),
    }


def _shared_dial(answer: WindowAnswer, element: Element) -> Any:
    setting = answer.shared.setting if len(answer.windows) > 1 else None
    return advised_dial(element, setting[0], timezone.now()) if setting else None


def _dwells(
    pressed: PressResult, data: dict[str, Any], library: ShopLibrary, sheet: Sheet, units: Units
) -> list[str]:
    """Sentences for another temperature and another stack."""
    sentences, before = [], data["dwell_s"]
    if data["to_c"] is not None:
        shown = temperature_text(data["to_c"], units)
        dwell = windows.dwell_at(pressed, library, sheet, true_c=data["to_c"])
        sentences.append(
            window_words.dwell_sentence(dwell, before, f"At {shown} true, through this stack")
        )
        if pressed.is_dye:
            plain = windows.equal_dose_s(pressed, data["to_c"])
            sentences.append(f"Without the stack’s delay, by the dye alone: {plain:.0f} s.")
    if data["sheets"]:
        count, label = data["sheets"], library[data["material"]].label
        stack = windows.with_sheets(pressed.request, data["material"], count)
        dwell = windows.dwell_at(pressed, library, sheet, stack=stack)
        way = "more" if count > 0 else "fewer"
        what = f"{abs(count)} {way} of {label}"
        sentences.append(window_words.dwell_sentence(dwell, before, what))
    return sentences


def _usual(request: Request, units: Units) -> dict[str, Any]:
    versions = queries.current_versions()
    version = versions.filter(recipe__slug=request.GET.get("recipe", "")).first()
    version = version or versions.first()
    if version is None:
        return {}
    element = usual_element(request.GET, version)
    advice = advised_dial(element, version.middle_c, timezone.now()) if element else None
    dial = advice.set_c if advice else version.middle_c
    blank = usual_blank(request.GET, version)
    return {
        "recipe": version.pk,
        "element": element.pk if element else "",
        "blank": blank,
        "set_c": temperature_text(dial, units).split("\u00a0")[0],
        "dwell_s": f"{(version.low_s + version.high_s) / 2:.0f}",
        "humidity": f"{HUMIDITY:g}",
        "sheets": "2",
        "material": "parchment",
    }
