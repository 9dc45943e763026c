"""Recipes: their cards, versions and files, and the making of them."""

import json
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.core.recipes.stack_rules import Stacked, faults
from tempermark.core.recipes.steps import RecipeStep, Sheet
from tempermark.core.vocabulary.methods import METHOD_WORDS
from tempermark.core.vocabulary.things import BLANK_KINDS
from tempermark.files.document import parse_json
from tempermark.files.recipe import read_recipe, to_document
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import attachment
from tempermark.web.kit.forms.editing import for_change
from tempermark.web.kit.forms.numbers import whole
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.wording import error_text
from tempermark.web.recipes.cards import actions, queries
from tempermark.web.recipes.cards.forms import MOST_SCHOOLS, MOST_STEPS, HeadForm, head_initial
from tempermark.web.recipes.cards.parts import SchoolFormSet, StepFormSet, parts_initial, rearranged
from tempermark.web.recipes.cards.versions import what_changed
from tempermark.web.recipes.materials.library import ShopLibrary, shop_materials
from tempermark.web.recipes.models import Recipe, RecipeVersion

MOST_FILE_BYTES, MOST_PROBLEMS = 200_000, 20
EMPTY = Sheet(
    "",
    "dye_sublimation",
    "garment",
    (RecipeStep("prepare"), RecipeStep("press"), RecipeStep("peel")),
)


@require_GET
def recipes(request: Request) -> HttpResponse:
    """All recipes that are offered, or those found by words, method and kind of blank."""
    query = request.GET.get("q", "").strip()[:80]
    method, kind = request.GET.get("method", ""), request.GET.get("kind", "")
    retired = request.GET.get("retired") == "1"
    versions = queries.current_versions() if not retired else queries.retired_versions()
    for label in query.split():
        versions = versions.filter(recipe__name__icontains=label)
    if method in METHOD_WORDS:
        versions = versions.filter(recipe__method=method)
    if kind in BLANK_KINDS:
        versions = versions.filter(recipe__blank_kind=kind)
    context = {
        "versions": versions,
        "query": query,
        "method": method,
        "kind": kind,
        "methods": METHOD_WORDS.items(),
        "kinds": BLANK_KINDS,
        "retired": retired,
    }
    return render(request, "recipes/recipes.html", context)


@require_GET
def versions(request: Request, slug: str) -> HttpResponse:
    """Every version of a recipe: what changed, by whom, with how many pieces."""
    record = get_object_or_404(Recipe, slug=slug)
    return render(
        request,
        "recipes/versions.html",
        {"recipe": record, "versions": queries.versions_with_pieces(record)},
    )


@require_http_methods(["GET", "POST"])
def edit(request: Request, slug: str | None = None) -> HttpResponse:
    """Change a recipe, or make one: anew, or as a copy of another."""
    must_lead(request.user)
    record = for_change(request, Recipe.objects, slug=slug) if slug else None
    like = Recipe.objects.filter(slug=request.GET.get("like", "")).first()
    of = record or like
    version = queries.current_version(of) if of else None
    library = shop_materials()
    sheet = version.sheet if version else EMPTY
    kwargs = {"units": form_units(request), "library": library}
    problems: list[str] = []
    meanwhile = _meanwhile(request, record, version, library)
    if request.method == "POST":
        head = HeadForm(request.POST)
        sent = rearranged(request.POST, "step", MOST_STEPS)
        steps = StepFormSet(sent, prefix="step", form_kwargs=kwargs)
        sent = rearranged(request.POST, "school", MOST_SCHOOLS)
        schools = SchoolFormSet(sent, prefix="school", form_kwargs=kwargs)
        if request.POST.get("op", "save") == "save" and not meanwhile:
            kept = _keep(request, record, head, steps, schools, problems)
            if kept is not None:
                return redirect(kept)
    else:
        begin = head_initial(sheet)
        head = HeadForm(initial=begin if record else begin | {"name": "", "change": "new"})
        steps = StepFormSet(initial=parts_initial(sheet.steps), prefix="step", form_kwargs=kwargs)
        schools = SchoolFormSet(
            initial=parts_initial(sheet.schools), prefix="school", form_kwargs=kwargs
        )
    context = {
        "recipe": record,
        "version": version,
        "head": head,
        "steps": steps,
        "schools": schools,
        "library": sorted(library.values(), key=lambda m: m.label),
        "problems": problems,
        "meanwhile": meanwhile,
    }
    wrong = request.method == "POST" and request.POST.get("op", "save") == "save"
    return render(request, "recipes/edit_recipe.html", context, status=422 if wrong else 200)


def _meanwhile(
    request: Request, record: Recipe | None, version: RecipeVersion | None, library: ShopLibrary
) -> list[str]:
    """What newer versions changed since this form was drawn from another."""
    drawn = whole(request.POST.get("from_version"))
    if record is None or drawn is None or drawn == version.number:
        return []
    was = record.versions.filter(number=drawn).first()
    return what_changed(was.sheet, version.sheet, form_units(request), library) if was else []


def _keep(
    request: Request,
    record: Recipe | None,
    head: HeadForm,
    steps: Any,
    schools: Any,
    problems: list[str],
) -> Recipe | None:
    """The recipe kept as a new version, or None with what is wrong shown."""
    sound = [head.is_valid(), steps.is_valid(), schools.is_valid()]
    if not all(sound):
        return None
    result = tuple(form.step() for form in steps.filled)
    if sum(step.kind == "press" for step in result) == 0:
        problems.append("A recipe needs a step of the kind press.")
        return None
    sheet = head.sheet(result, tuple(form.school() for form in schools.filled))
    try:
        version = actions.keep_recipe(request.user, sheet, record, head.cleaned_data["change"])
    except InputError as error:
        path = error.problems[0].path
        if path in head.fields:
            head.add_error(path, error_text(error, form_units(request)))
        else:
            problems.append(error_text(error, form_units(request)))
        return None
    messages.success(request, f"{sheet.name}, version {version.number}, is saved.")
    for text in stack_cautions(sheet):
        messages.warning(request, text)
    return version.recipe


def stack_cautions(sheet: Sheet) -> list[str]:
    """What is wrong with the stacks of a recipe, by step."""
    found = []
    for step in sheet.steps:
        if not step.stack:
            continue
        stack = Stacked(step.stack, sheet.method, step.kind, sheet.blank_kind)
        found += [f"{step.name.capitalize()}: {f.right}; {f.because}." for f in faults(stack)]
    return found


@require_POST
def retire(request: Request, slug: str) -> HttpResponse:
    """Take a recipe out of what is offered, or bring it back."""
    record = get_object_or_404(Recipe, slug=slug)
    retired = request.POST.get("back") != "1"
    actions.retire_recipe(request.user, record, retired)
    messages.success(request, f"{record.name} is {'retired' if retired else 'offered again'}.")
    return redirect(record)


@require_POST
def restore(request: Request, slug: str, number: int) -> HttpResponse:
    """An earlier version once more, as the newest."""
    version = get_object_or_404(RecipeVersion, recipe__slug=slug, number=number)
    kept = actions.restore_version(request.user, version)
    messages.success(request, f"As version {number} had it: now version {kept.number}.")
    return redirect(version.recipe)


@require_GET
def recipe_file(request: Request, slug: str) -> HttpResponse:
    """The recipe as a document to take elsewhere."""
    version = queries.current_version(get_object_or_404(Recipe, slug=slug))
    text = json.dumps(to_document(version.sheet), indent=1, ensure_ascii=False)
    return attachment(text, "application/json", f"{slug}.recipe.json")


@require_http_methods(["GET", "POST"])
def take_in(request: Request) -> HttpResponse:
    """A recipe from a file: a new one, or the next version of the one of that name."""
    must_lead(request.user)
    problems: list[str] = []
    sent = request.FILES.get("file")
    if request.method == "POST" and sent is None:
        problems.append("Choose a file first.")
    elif request.method == "POST" and sent.size > MOST_FILE_BYTES:
        problems.append("The file is over 200 kB; a recipe has a few.")
    elif request.method == "POST":
        try:
            sheet = read_recipe(parse_json(sent.read()), set(shop_materials()))
            record = Recipe.objects.filter(name__iexact=sheet.name).first()
            version = actions.keep_recipe(request.user, sheet, record, f"from {sent.name}"[:200])
        except InputError as error:
            problems += [
                f"{p.path}: {p.message}" if p.path else str(p.message) for p in error.problems
            ]
            del problems[MOST_PROBLEMS:]
        else:
            messages.success(request, f"{sheet.name}, version {version.number}, has been imported.")
            return redirect(version.recipe)
    status = 422 if problems else 200
    return render(request, "recipes/take_in_recipe.html", {"problems": problems}, status=status)
