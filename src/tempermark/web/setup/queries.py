"""Reading recipes and blanks."""

from django.db.models import OuterRef, Subquery
from django.utils import timezone

from tempermark.web.floor.models import Element
from tempermark.web.measure.queries import advice
from tempermark.web.setup.models import Recipe, RecipeVersion


def current_versions():
    """The newest version of every recipe, by name."""
    newest = (
        RecipeVersion.objects.filter(recipe=OuterRef("recipe")).order_by("-number").values("pk")[:1]
    )
    return (
        RecipeVersion.objects.filter(pk=Subquery(newest))
        .select_related("recipe")
        .order_by("recipe__name")
    )


def current_version(recipe: Recipe) -> RecipeVersion | None:
    """The newest version of one recipe."""
    return recipe.versions.order_by("-number").first()


def settings_on_presses(version: RecipeVersion) -> list[tuple]:
    """Every element in use with the advice for a recipe on it."""
    now = timezone.now()
    elements = Element.objects.filter(taken_out_on=None).select_related("press")
    ordered = elements.order_by("press__place", "press__name", "pk")
    return [(element, advice(element, version.middle_c, now)) for element in ordered]
