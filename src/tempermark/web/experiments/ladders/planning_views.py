"""Planning an experiment of a kind with a recipe, on a press that takes it."""

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.experiments.ladders import actions
from tempermark.web.experiments.ladders.arm_forms import FORMS, ArmsForm
from tempermark.web.experiments.ladders.engine import known_of
from tempermark.web.experiments.ladders.forms import ExperimentForm
from tempermark.web.experiments.models import ExperimentKind
from tempermark.web.heat.recipe.presses import on_chosen_press
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.presses.models import Element
from tempermark.web.recipes.blanks.choice import suitable
from tempermark.web.recipes.models import RecipeVersion

# A search looks this far beyond a recipe's own window, K and as factors.
BEYOND_K, BEYOND_LOW, BEYOND_HIGH = 10.0, 0.5, 1.6


@require_http_methods(["GET", "POST"])
def new(request: Request, slug: str, kind: str) -> HttpResponse:
    """Plan an experiment of a kind with a recipe, on a press that takes it."""
    must_work(request.user)
    if kind not in FORMS:
        raise Http404("There is no such experiment.")
    chosen = on_chosen_press(slug, request.POST.get("press") or request.GET.get("press"))
    version, offered, element = chosen.version, chosen.offered, chosen.element
    key = form_key(request)
    form = _form(request, kind, version, element, offered, key.int)
    if request.method == "POST" and form.is_valid():
        fields = form.fields_of_experiment() | {
            "kind": kind,
            "recipe": version,
            "element": element,
        }
        experiment = actions.plan(request.user, fields, form.presses(), key)
        return redirect(experiment)
    context = {
        "form": form,
        "kind": kind,
        "kinds": ExperimentKind.choices,
        "version": version,
        "element": element,
        "press": element.press,
        "offered": offered,
    }
    return render(request, "experiments/new.html", context, status=422 if form.errors else 200)


def _form(
    request: Request,
    kind: str,
    version: RecipeVersion,
    element: Element,
    offered: list[Element],
    seed: int,
) -> ExperimentForm:
    options: dict[str, Any] = {
        "units": form_units(request),
        "version": version,
        "element": element,
        "seed": seed % 2**32,
        "initial": _initial(kind, version, element),
    }
    if kind == ExperimentKind.COMPARISON:
        return ArmsForm(request.POST or None, offered=offered, **options)
    return FORMS[kind](request.POST or None, **options)


def _initial(kind: str, version: RecipeVersion, element: Element) -> dict[str, Any]:
    """The recipe's window on this press."""
    known = known_of(element)

    def dial(true_c: float) -> float:
        return known.dial_for(true_c).set_c if known else true_c

    own = suitable(version)
    middle_s = round((version.low_s + version.high_s) / 2)
    low_s, high_s = (
        max(1.0, round(version.low_s * BEYOND_LOW)),
        float(round(version.high_s * BEYOND_HIGH)),
    )
    low_c, high_c = dial(version.low_c - BEYOND_K), dial(version.high_c + BEYOND_K)
    values: dict[str, Any] = {
        "blank": own[0] if own else None,
        "set_c": dial(version.middle_c),
        "dwell_s": middle_s,
        "pressure": version.pressure,
        "pressures": [version.pressure],
        "low": low_c,
        "high": high_c,
        "low_s": low_s,
        "high_s": high_s,
    }
    if kind == ExperimentKind.TIME:
        values |= {"low": low_s, "high": high_s}
    if kind == ExperimentKind.PRESSURE:
        values["pressures"] = ["light", "medium", "firm"]
    return values
