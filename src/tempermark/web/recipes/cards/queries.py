"""Reading recipes and blanks."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from django.db.models import OuterRef, QuerySet, Subquery

from tempermark.web.recipes.models import Recipe, RecipeVersion

# Further than this nobody counts the pieces of a version.
MOST_COUNTED = 1000
# So many versions are kept by a process: more than a shop presses by in a day.
KEPT_VERSIONS = 256


@lru_cache(maxsize=KEPT_VERSIONS)
def version_by_key(pk: int) -> RecipeVersion:
    """A version with its steps, read once in a process, for a bench that asks at every closing: it
    never changes. What its recipe is called may be older than today's name.
    """
    return RecipeVersion.objects.select_related("recipe").get(pk=pk)


def current_versions() -> QuerySet[RecipeVersion]:
    """The newest version of every recipe that is offered, by name."""
    return _newest().filter(recipe__retired_at=None)


def retired_versions() -> QuerySet[RecipeVersion]:
    """The newest version of every recipe that is no longer offered, by name."""
    return _newest().exclude(recipe__retired_at=None)


def _newest() -> QuerySet[RecipeVersion]:
    newest = (
        RecipeVersion.objects.filter(recipe=OuterRef("recipe")).order_by("-number").values("pk")[:1]
    )
    newest_only = RecipeVersion.objects.filter(pk=Subquery(newest))
    return newest_only.select_related("recipe").order_by("recipe__name")


@dataclass(frozen=True)
class VersionUse:
    """A version of a recipe with the pieces that were pressed by it, counted so far."""

    version: RecipeVersion
    pieces: int

    @property
    def is_more(self) -> bool:
        """Whether there are more than are counted."""
        return self.pieces > MOST_COUNTED

    @property
    def counted(self) -> int:
        """The pieces that are counted."""
        return min(self.pieces, MOST_COUNTED)


def versions_with_pieces(recipe: Recipe) -> list[VersionUse]:
    """Versions of a recipe, newest first, with the pieces pressed by each."""
    return [
        VersionUse(
            version,
            # In any order, so that the first index that finds them will do.
            version.test_presses.filter(withdrawn_at=None).order_by()[: MOST_COUNTED + 1].count(),
        )
        for version in recipe.versions.select_related("created_by")
    ]


def current_version(recipe: Recipe) -> RecipeVersion | None:
    """The newest version of one recipe."""
    return recipe.versions.order_by("-number").first()


def school_rows(version: RecipeVersion) -> list[dict[str, Any]]:
    """The schools side by side, each with its main press and in what it differs."""
    main = version.sheet.main
    rows = []
    for school in version.sheet.schools:
        result = school.applied(main)
        names = {
            "temperature_c": "temperature",
            "time_s": "dwell",
            "pressure": "pressure",
            "peel": "peel",
            "stack": "stack",
        }
        differs = [
            text for name, text in names.items() if getattr(result, name) != getattr(main, name)
        ]
        if school.polyester:
            low, high = school.polyester
            differs.append(f"polyester {low:.0%} to {high:.0%}".replace("%", "\u00a0%"))
        rows.append({"school": school, "main": result, "differs": ", ".join(differs)})
    return rows
