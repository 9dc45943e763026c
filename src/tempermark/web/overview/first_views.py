"""Pages of a new room's first hour."""

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET

from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.overview.first_steps import after_recipe
from tempermark.web.presses.queries import fitted_first
from tempermark.web.recipes.cards.queries import current_versions
from tempermark.web.run.pieces.placing import RecipesHere, recipes_here


@require_GET
def first_recipe(request: Request) -> HttpResponse:
    """Choose what is pressed first in a new room; the choice leads on to its blank and pressure."""
    must_work(request.user)
    element = fitted_first().order_by("press__pk").first()
    press = element.press if element else None
    version = current_versions().filter(pk=row_key(request.GET.get("recipe", ""))).first()
    if version is not None:
        return redirect(after_recipe(press, version))
    here = recipes_here(element) if element else RecipesHere([], list(current_versions()), [])
    context = {"press": press, "here": here, "first": True}
    return render(request, "run/pick.html", context)
