"""Recipes to read, and blanks; the making of recipes comes with its own issue."""

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from tempermark.core.errors import InputError
from tempermark.web.accounts.permissions import must_work
from tempermark.web.setup import actions, queries
from tempermark.web.setup.forms import BlankForm
from tempermark.web.setup.models import Blank, Recipe


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


@require_http_methods(["GET", "POST"])
def blank(request, pk=None):
    """Add a blank, or change one."""
    must_work(request.user)
    record = get_object_or_404(Blank, pk=pk) if pk else None
    names = tuple(BlankForm.base_fields)
    initial = {n: getattr(record, n) for n in names} if record else {"kind": "garment"}
    form = BlankForm(request.POST or None, initial=initial)
    if request.method == "POST" and form.is_valid():
        try:
            kept = actions.keep_blank(request.user, form.cleaned_data, record)
        except InputError as error:
            form.add_error("name", str(error))
        else:
            messages.success(request, f"{kept.name} is kept.")
            return redirect("fit:pieces")
    context = {"form": form, "blank": record}
    return render(request, "setup/blank.html", context, status=422 if form.errors else 200)
