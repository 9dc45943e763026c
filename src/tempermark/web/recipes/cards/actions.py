"""Changes to recipes and blanks."""

import json
from functools import lru_cache
from typing import Any

from django.db import transaction
from django.db.models import Q
from django.utils import timezone
from django.utils.text import slugify

from tempermark.core.errors import InputError
from tempermark.core.pressing.limits import refusal, refused_layers
from tempermark.core.pressing.request import shipped_blank
from tempermark.core.pressing.schools import with_equal_dwells
from tempermark.core.recipes.blank_types import blank_types
from tempermark.core.recipes.shipped import shipped_recipes
from tempermark.core.recipes.steps import Sheet, to_dict
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead, must_work
from tempermark.web.kit.records.audit import record
from tempermark.web.recipes.materials.library import shop_materials
from tempermark.web.recipes.models import Blank, OwnMaterial, Recipe, RecipeVersion


@transaction.atomic
def load_shipped_recipes() -> int:
    """Add shipped recipes that are not there yet, and the next version of one that was revised and
    that no shop has changed. How many were added or revised.
    """
    newest = {}
    for version in RecipeVersion.objects.select_related("recipe").order_by("number"):
        newest[version.recipe.slug] = version
    by_slug = {slugify(sheet.name): sheet for sheet in shipped_recipes()}
    added = Recipe.objects.bulk_create(
        Recipe(name=sheet.name, slug=slug, method=sheet.method, blank_kind=sheet.blank_kind)
        for slug, sheet in by_slug.items()
        if slug not in newest
    )
    first = "shipped starting point"
    versions = [_version(recipe, by_slug[recipe.slug], 1, None, first) for recipe in added]
    for slug, version in newest.items():
        sheet = by_slug.get(slug)
        if sheet and version.recipe.starting_point and _is_revised(version, sheet):
            next_number, revised = version.number + 1, f"{first}, revised"
            versions.append(_version(version.recipe, sheet, next_number, None, revised))
    RecipeVersion.objects.bulk_create(versions)
    return len(versions)


def _is_revised(newest: RecipeVersion, sheet: Sheet) -> bool:
    """Whether a shipped recipe asks for something else than its newest version here."""
    shipped = _as_stored(_with_dwells(sheet))
    return (newest.blank_like, newest.steps, newest.schools) != (sheet.blank, *shipped)


def _as_stored(sheet: Sheet) -> tuple[Any, ...]:
    """Steps and schools as they come out of the database again: lists for tuples, of the caller's
    own.
    """
    return tuple(json.loads(json.dumps(rows)) for rows in _rows(sheet))


@lru_cache
def _rows(sheet: Sheet) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """Steps and schools as rows; not to be written to."""
    return [to_dict(step) for step in sheet.steps], [to_dict(school) for school in sheet.schools]


@lru_cache
def _with_dwells(sheet: Sheet) -> Sheet:
    """Schools that are called equal with the dwells their own stack needs."""
    if sheet.blank not in blank_types():
        return sheet
    return with_equal_dwells(sheet, shipped_blank(sheet.blank))


def add_version(recipe: Recipe, sheet: Sheet, user: User, change: str) -> RecipeVersion:
    """The next version of a recipe, with the summary of its main press; schools that are called
    equal get the dwells their own stack needs.
    """
    newest = recipe.versions.order_by("-number").first()
    version = _version(recipe, sheet, newest.number + 1 if newest else 1, user, change)
    version.save()
    return version


def _version(
    recipe: Recipe, sheet: Sheet, number: int, user: User | None, change: str
) -> RecipeVersion:
    sheet = _with_dwells(sheet)
    main = sheet.main
    low_c, high_c = main.temperature_c
    low_s, high_s = main.time_s
    peel = next((step.peel for step in sheet.steps if step.kind == "peel"), "")
    steps, schools = _as_stored(sheet)
    return RecipeVersion(
        recipe=recipe,
        number=number,
        low_c=low_c,
        high_c=high_c,
        low_s=low_s,
        high_s=high_s,
        pressure=main.pressure,
        peel=main.peel or peel,
        stack=list(main.stack),
        steps=steps,
        schools=schools,
        cautions=list(sheet.cautions),
        normal=list(sheet.normal),
        faults=list(sheet.faults),
        note=sheet.note,
        blank_like=sheet.blank,
        created_by=user,
        change=change,
    )


@transaction.atomic
def keep_recipe(user: User, sheet: Sheet, recipe: Recipe | None, change: str) -> RecipeVersion:
    """A recipe's next version, or a new recipe; InputError when its name is taken."""
    must_lead(user)
    _refuse_soft_plastics(sheet)
    others = Recipe.objects.exclude(pk=recipe.pk if recipe else None)
    slug = slugify(sheet.name)
    if not slug:
        raise InputError.single("name", "The name needs a letter or a digit.")
    if others.filter(Q(name__iexact=sheet.name) | Q(slug=slug)).exists():
        raise InputError.single("name", f"There is a recipe named {sheet.name} already.")
    recipe = recipe or Recipe(slug=slug)
    # The address stays: labels and notes point to it.
    recipe.name, recipe.method, recipe.blank_kind = sheet.name, sheet.method, sheet.blank_kind
    recipe.starting_point = False
    recipe.save()
    version = add_version(recipe, sheet, user, change)
    record(user, "kept recipe", recipe, version=version.number, change=change)
    return version


def _refuse_soft_plastics(sheet: Sheet) -> None:
    """A recipe for a plastic that flattens under any load is never kept; InputError says why."""
    refused = refusal(shipped_blank(sheet.blank)) if sheet.blank in blank_types() else None
    if refused is not None:
        raise InputError.single("blank", f"{refused.because}. {refused.instead.capitalize()}.")
    library = shop_materials()
    for step in sheet.steps:
        for material in refused_layers(step.stack, library) if step.is_heated else ():
            raise InputError.single(
                "steps",
                f"{material.label} softens near {material.softens_c:.0f} °C and flattens under any "
                "load: it is never pressed.",
            )


@transaction.atomic
def restore_version(user: User, version: RecipeVersion) -> RecipeVersion:
    """An earlier version as the newest again."""
    must_lead(user)
    change = f"as version {version.number} had it"
    kept = add_version(version.recipe, version.sheet, user, change)
    record(user, "restored recipe", version.recipe, version=kept.number, of=version.number)
    return kept


@transaction.atomic
def retire_recipe(user: User, recipe: Recipe, retired: bool) -> None:
    """Take a recipe out of what is offered, or bring it back; nothing where it is so already."""
    must_lead(user)
    if retired == (recipe.retired_at is not None):
        return
    recipe.retired_at = timezone.now() if retired else None
    recipe.save(update_fields=["retired_at"])
    record(user, "retired recipe" if retired else "brought recipe back", recipe)


@transaction.atomic
def keep_material(user: User, code: str, values: dict[str, Any]) -> OwnMaterial:
    """The shop's own values of a material, above what was shipped."""
    must_lead(user)
    row = OwnMaterial.objects.create(code=code, by=user, **values)
    record(user, "kept material", row, code=code, source=row.source)
    return row


@transaction.atomic
def withdraw_material(user: User, row: OwnMaterial) -> None:
    """Take own values back: those before them, or the shipped ones, hold again."""
    must_lead(user)
    row.withdrawn_at = timezone.now()
    row.save(update_fields=["withdrawn_at"])
    record(user, "withdrew material", row, code=row.code)


@transaction.atomic
def keep_blank(user: User, fields: dict[str, Any], blank: Blank | None = None) -> Blank:
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
