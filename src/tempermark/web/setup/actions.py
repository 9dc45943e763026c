"""Changes to recipes."""

from django.db import transaction
from django.utils.text import slugify

from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.web.setup.models import Recipe, RecipeVersion


@transaction.atomic
def load_shipped_recipes() -> int:
    """Add shipped recipes that are not there yet; a shop's own changes stay. How many."""
    known = set(Recipe.objects.values_list("slug", flat=True))
    missing = [row for row in shipped_recipes() if slugify(row["name"]) not in known]
    for row in missing:
        recipe = Recipe.objects.create(
            name=row["name"],
            slug=slugify(row["name"]),
            method=row["method"],
            blank_kind=row["blank_kind"],
        )
        RecipeVersion.objects.create(
            recipe=recipe,
            low_c=row["temperature_c"][0],
            high_c=row["temperature_c"][1],
            low_s=row["time_s"][0],
            high_s=row["time_s"][1],
            pressure=row["pressure"],
            peel=row["peel"],
            steps=row["steps"],
            stack=row["stack"],
            cautions=row["cautions"],
            normal=row["normal"],
        )
    return len(missing)
