"""Setting a press for a blank, and learning its pressure."""

from collections.abc import Sequence
from typing import Any

from django.contrib import messages
from django.http import HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from tempermark.core.errors import InputError
from tempermark.core.pressure.press.contact import class_of
from tempermark.core.vocabulary.things import BLANK_KINDS
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.figures import decimals_of, length_text
from tempermark.web.kit.forms.fields import as_typed
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import error_text
from tempermark.web.presses.models import Element, Mechanism, Press
from tempermark.web.presses.queries import fitted_first
from tempermark.web.pressure import actions, mapping, queries
from tempermark.web.pressure.forms import (
    LoadForm,
    initial_load,
)
from tempermark.web.pressure.maps import charts
from tempermark.web.pressure.models import (
    PressureState,
    WearingPart,
)
from tempermark.web.pressure.setting import words
from tempermark.web.pressure.setting.setting import Load, advise
from tempermark.web.recipes.blanks.choice import suitable
from tempermark.web.recipes.blanks.takes import kinds_taken
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.recipes.models import Blank, RecipeVersion

LOAD_KEPT = ("sheets_mm", "pillow_mm", "wanted")


def _press(slug: str) -> Press:
    return get_object_or_404(Press, slug=slug)


def _element(press: Press) -> Element:
    return fitted_first().filter(press=press).first()


@require_GET
def pressure(request: Request, slug: str) -> HttpResponse:
    """What to set on this press for a blank; the press as it stands."""
    press = _press(slug)
    context = _setting(request, press, request.GET)
    context |= {
        "states": queries.states(press)[:8],
        "lives": [
            (part.value, words.life_text(queries.wear(press, part), part, timezone.localdate()))
            for part in WearingPart
        ],
        "maps": queries.of_press(press)[:5],
    }
    if context["element"] is not None:
        kinds = kinds_taken(context["element"])
        versions = sorted(current_versions(), key=lambda version: version.recipe.name)
        fits = [version for version in versions if version.recipe.blank_kind in kinds]
        context |= {"versions": fits, "others": [v for v in versions if v not in fits]}
    return render(request, "pressure/pressure.html", context)


@require_GET
def summary_fragment(request: Request, slug: str) -> HttpResponse:
    """The answer again, for another load."""
    context = _setting(request, _press(slug), request.GET) | {"oob": True}
    return render(request, "pressure/_summary.html", context)


def _setting(request: Request, press: Press, data: QueryDict) -> dict[str, Any]:
    element = _element(press)
    version = _chosen_recipe(data)
    units = form_units(request)
    form = LoadForm(_filled(press, data, units), initial=initial_load(None, version), units=units)
    form.offer(kinds_taken(element) if element else BLANK_KINDS)
    context: dict[str, Any] = {
        "press": press,
        "element": element,
        "form": form,
        "by_feel": queries.lesson(press) is None,
        "state": queries.state(press),
    }
    context["state_words"] = words.state_text(
        context["state"], press.name, request.user.units, context["by_feel"]
    )
    if version is not None and not form.is_bound:
        context["ask_blank"] = version
    if form.is_bound and form.is_valid():
        context |= _advice(press, element, _load(request, press, form), request.user.units)
    return context


def _load(request: Request, press: Press, form: LoadForm) -> Load:
    """What is pressed, and how the person leans where that matters."""
    reading = queries.lean(press, request.user) if press.mechanism == Mechanism.HAND else None
    return Load(**form.cleaned_data, lean_kg=reading.kg if reading else None)


def _filled(press: Press, data: QueryDict, units: Units) -> dict[str, Any] | None:
    """The form as sent; what a new blank or recipe implies is filled in; by default the last."""
    state = queries.state(press)
    version = _chosen_recipe(data)
    element = _element(press)
    kinds = kinds_taken(element) if element else BLANK_KINDS
    blank = _chosen_blank(data, state, version, kinds)
    if blank is None:
        return None
    given = initial_load(blank, version)
    if state is not None and "blank" not in data and version is None:
        given |= {
            "layers": state.layers,
            "pillow_mm": state.pillow_mm,
            "wanted": state.wanted,
        }
    given = as_typed(LoadForm, given, units)
    # Another blank brings its own layers, a recipe its sheets and pressure too.
    other = "shown" in data and data["shown"] != data.get("blank")
    kept = LOAD_KEPT if other else ("layers", *LOAD_KEPT)
    for name in kept:
        if name in data and "recipe" not in data:
            given[name] = data[name]
    given["blank"] = blank.pk if version is not None else data.get("blank") or blank.pk
    return given


def _chosen_blank(
    data: QueryDict,
    state: PressureState | None,
    version: RecipeVersion | None,
    kinds: Sequence[str],
) -> Blank | None:
    """The blank asked for; with a recipe one that it is for, else the last one or the first."""
    text = data.get("blank", "")
    found = Blank.objects.filter(pk=row_key(text)).first()
    if version is not None:
        if found is not None and found.kind == version.recipe.blank_kind:
            return found
        return next(iter(suitable(version)), None)
    if found is not None:
        return found
    if state is not None and state.blank is not None:
        return state.blank
    return Blank.objects.filter(kind__in=kinds).first()


def _chosen_recipe(data: QueryDict) -> RecipeVersion | None:
    text = data.get("recipe", "")
    return RecipeVersion.objects.filter(pk=row_key(text)).first()


def _advice(press: Press, element: Element, load: Load, units: Units) -> dict[str, Any]:
    try:
        advice = advise(press, element, load)
    except InputError as error:
        return {"problem": error_text(error, units)}
    return {
        "advice": advice,
        "headline": words.headline(advice, units),
        "then": words.then_text(advice, units),
        "unchanged": words.unchanged_text(advice, units),
        "unchanged_right": advice.unchanged is not None
        and class_of(advice.unchanged.value) == load.wanted,
        "limit": words.limit_text(advice, units),
        "overload": words.overload_text(advice, units),
        "section": charts.section(advice),
        "parts": _parts(load, units),
        "knob": mapping.knob_of(press) if press.mechanism == "knob" else None,
        "turn_words": words.turns_text(advice.turns) if advice.turns is not None else "",
    }


def _parts(load: Load, units: Units) -> list[tuple[str, float]]:
    each = mapping.thickness_mm(load.blank)
    name = f"{load.blank.name}, {load.layers} × {length_text(each, units, 2)}"
    rows = [(name, each * load.layers), ("sheets and transfer", load.sheets_mm)]
    if load.pillow_mm:
        thick = length_text(load.pillow_mm, units, decimals_of(load.pillow_mm))
        rows.append(
            (
                f"pillow of {thick}, as pressed",
                load.pillow_pressed_mm,
            )
        )
    return rows


@require_POST
def set_pressure(request: Request, slug: str) -> HttpResponse:
    """Note that it was set as advised."""
    press = _press(slug)
    form = LoadForm(request.POST, units=form_units(request))
    if not form.is_valid():
        must_work(request.user)
        messages.error(request, "What is pressed was not understood; nothing was recorded.")
        return redirect("pressure:pressure", slug)
    with refusal_shown(request):
        advice = advise(press, _element(press), _load(request, press, form))
        state = actions.set_pressure(request.user, advice, form_key(request))
        by_feel = queries.lesson(press) is None
        messages.success(request, words.state_text(state, press.name, request.user.units, by_feel))
    return redirect("pressure:pressure", slug)


@require_POST
def take_back(request: Request, slug: str) -> HttpResponse:
    """The last noted setting never was."""
    press = _press(slug)
    state = actions.take_back_state(request.user, press)
    if state is not None:
        messages.success(request, "Undone: the setting before it is back.")
    return redirect("pressure:pressure", slug)
