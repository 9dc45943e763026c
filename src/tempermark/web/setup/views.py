"""Recipes to read; their making comes with its own issue."""

from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from tempermark.web.setup import queries
from tempermark.web.setup.models import Recipe


@require_GET
def recipes(request):
    """All recipes."""
    return render(request, "setup/recipes.html", {"versions": queries.current_versions()})


@require_GET
def recipe(request, slug):
    """One recipe card."""
    record = get_object_or_404(Recipe, slug=slug)
    version = queries.current_version(record)
    context = {
        "recipe": record,
        "version": version,
        "presses": queries.settings_on_presses(version),
    }
    return render(request, "setup/recipe.html", context)
