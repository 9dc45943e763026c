"""A leaflet's printed range: where it overlaps what the shop has, and what to set first."""

from typing import Any

from django import forms
from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from tempermark.core.experiments.leaflet import first_try, overlaps
from tempermark.core.recipes.windows import SettingWindow
from tempermark.core.vocabulary.methods import METHOD_WORDS
from tempermark.web.accounts.requests import Request
from tempermark.web.experiments.ladders.engine import known_of
from tempermark.web.kit.forms.fields import DwellField, TemperatureField, UnitForm
from tempermark.web.kit.forms.units import form_units
from tempermark.web.presses.queries import fitted_first
from tempermark.web.recipes.blanks.takes import takes
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.recipes.models import RecipeVersion
from tempermark.web.run.pieces.proven import proven_on

# What is proven is a window of so much to each side of the good pieces' middle.
PROVEN_K, PROVEN_SHARE = 4.0, 0.15
MOST_LISTED = 12


class LeafletForm(UnitForm):
    """What the leaflet prints."""

    name = forms.CharField(label="Paper or film", required=False, max_length=60)
    method = forms.ChoiceField(choices=[("", "any"), *METHOD_WORDS.items()], required=False)
    low_c = TemperatureField(label="From", low=20, high=300)
    high_c = TemperatureField(label="To", low=20, high=300)
    low_s = DwellField(label="Dwell from", low=0.5, high=1800)
    high_s = DwellField(label="Dwell to", low=0.5, high=1800)

    def clean(self) -> dict[str, Any]:
        """Each range in its order; one figure alone is a range too."""
        super().clean()
        data = self.cleaned_data
        for low, high in (("low_c", "high_c"), ("low_s", "high_s")):
            if data.get(low) is not None and data.get(high) is not None and data[low] > data[high]:
                self.add_error(high, "The range ends below where it begins.")
        return data

    @property
    def window(self) -> SettingWindow:
        """The range, once valid."""
        data = self.cleaned_data
        return SettingWindow(
            (data["low_c"], data["high_c"]),
            (data["low_s"], data["high_s"]),
            data["name"] or "the leaflet",
        )


@require_GET
def leaflet(request: Request) -> HttpResponse:
    """Type a leaflet's range; see overlaps and the first setting to try."""
    units = form_units(request)
    is_sent = "low_c" in request.GET
    form = LeafletForm(request.GET if is_sent else None, units=units)
    context: dict[str, Any] = {"form": form}
    if is_sent and form.is_valid():
        context |= _answer(form)
    return render(request, "experiments/leaflet.html", context, status=422 if form.errors else 200)


def _answer(form: LeafletForm) -> dict[str, Any]:
    method = form.cleaned_data["method"]
    versions = [v for v in current_versions() if not method or v.recipe.method == method]
    by_name = {v.recipe.name: v for v in versions}
    windows = [
        SettingWindow((v.low_c, v.high_c), (v.low_s, v.high_s), v.recipe.name) for v in versions
    ]
    proven = [w for v in versions for w in _proven(v)] if method else []
    rows = overlaps(form.window, windows)
    tried = first_try(form.window, proven or (windows if method else []))
    kinds = {v.recipe.blank_kind for v in versions} if method else set()
    return {
        "rows": [{"it": row, "version": by_name[row.window.name]} for row in rows[:MOST_LISTED]],
        "shared": sum(row.share > 0 for row in rows),
        "tried": tried,
        "is_proven": bool(proven) and tried.windows > 0,
        "dials": _dials(tried.true_c, kinds),
        "name": form.cleaned_data["name"] or "this material",
    }


def _proven(version: RecipeVersion) -> list[SettingWindow]:
    """What has come out well in this shop, by press."""
    return [
        SettingWindow(
            (p.true_c - PROVEN_K, p.true_c + PROVEN_K),
            (p.dwell_s * (1 - PROVEN_SHARE), p.dwell_s * (1 + PROVEN_SHARE)),
            version.recipe.name,
        )
        for p in proven_on(version).values()
    ]


def _dials(true_c: float, kinds: set[str]) -> list[dict[str, Any]]:
    """What that is on the dial of each press that is surveyed and takes such blanks."""
    found = []
    for element in fitted_first().select_related("press").order_by("press__place"):
        if kinds and not any(takes(element, kind) for kind in kinds):
            continue
        known = known_of(element)
        if known is not None:
            found.append({"press": element.press, "set_c": known.dial_for(true_c).set_c})
    return found
