"""Changes to recipes and blanks."""

from django.db import transaction
from django.utils.text import slugify

from tempermark.core.errors import InputError
from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.audit import record
from tempermark.web.setup.models import Blank, Recipe, RecipeVersion


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


@transaction.atomic
def keep_blank(user, fields: dict, blank: Blank | None = None) -> Blank:
    """Add a blank, or change one; InputError when its name is taken."""
    must_work(user)
    taken = Blank.objects.exclude(pk=blank.pk if blank else None)
    if taken.filter(name__iexact=fields["name"]).exists():
        raise InputError.single("name", f"There is a blank named {fields['name']} already.")
    did = "changed blank" if blank else "added blank"
    blank = blank or Blank()
    changed = [name for name, value in fields.items() if getattr(blank, name) != value]
    for name, value in fields.items():
        setattr(blank, name, value)
    blank.save()
    record(user, did, blank, changed=changed)
    return blank
