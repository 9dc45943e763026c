"""A recipe's card: what it asks, its schools with what is computed, each press's setting."""

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.pressing.limits import refusal
from tempermark.web.accounts.requests import Request
from tempermark.web.heat.recipe.presses import settings_on_presses
from tempermark.web.heat.recipe.schools import computed
from tempermark.web.recipes.blanks.choice import blank_from, usual_blank
from tempermark.web.recipes.blanks.core import core_blank
from tempermark.web.recipes.cards import queries
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.recipes.models import Recipe, RecipeVersion


@require_GET
def recipe(request: Request, slug: str, number: int | None = None) -> HttpResponse:
    """One recipe card, as it is now or as a version had it."""
    record = get_object_or_404(Recipe, slug=slug)
    newest = queries.current_version(record)
    version = get_object_or_404(RecipeVersion, recipe=record, number=number) if number else newest
    symptoms = shipped().symptoms
    library = shop_materials()
    schools = queries.school_rows(version)
    blank = blank_from(usual_blank(request.GET, version))
    for row in schools:
        row["summary"] = computed(version, row["school"], blank, library)
    refused = refusal(core_blank(blank, library), library) if blank else None
    context = {
        "recipe": record,
        "version": version,
        "newest": version == newest,
        "library": library,
        "schools": schools,
        "blank": blank,
        "refused": refused,
        "faults": [symptoms[code].label for code in version.faults if code in symptoms],
        "presses": settings_on_presses(version),
    }
    return render(request, "heat/recipe.html", context)
