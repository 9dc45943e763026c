"""Reading recipes and blanks."""

from django.db.models import OuterRef, Subquery

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
