"""A new room's first hour: five steps from an empty floor to a logged piece, and which are done."""

from dataclasses import dataclass
from urllib.parse import urlencode

from django.urls import reverse

from tempermark.web.measure.models import Survey
from tempermark.web.presses.models import Press
from tempermark.web.pressure.models import PressureState
from tempermark.web.recipes.blanks.choice import suitable
from tempermark.web.recipes.models import Blank, RecipeVersion
from tempermark.web.run.models import TestPress


@dataclass(frozen=True)
class Step:
    """One step: what to do, what it brings, where, and whether it is done."""

    title: str
    brings: str
    address: str
    is_done: bool
    is_next: bool = False


def first_steps() -> list[Step]:
    """The steps of a room in which no piece was logged yet; none afterwards. The first that is not
    done is next; what needs a press has no address before there is one.
    """
    if TestPress.objects.exists():
        return []
    press = Press.objects.order_by("pk").first()
    slug = press.slug if press else ""
    rows = [
        ("Press", "name, kind and size", reverse("presses:new-press"), press is not None),
        ("Survey", "what it really reaches", _of("measure:new", slug), _is_surveyed()),
        (
            "Recipe and blank",
            "what you print, on what",
            reverse("overview:first-recipe"),
            Blank.objects.exists(),
        ),
        (
            "Pressure",
            "what to turn or set",
            _of("pressure:pressure", slug),
            PressureState.objects.exists(),
        ),
        ("Test press", "the first piece on record", _of("run:new", slug), False),
    ]
    at = next(number for number, row in enumerate(rows) if not row[-1])
    return [Step(*row, is_next=number == at) for number, row in enumerate(rows)]


def _of(name: str, slug: str) -> str:
    return reverse(name, args=[slug]) if slug else ""


def _is_surveyed() -> bool:
    return Survey.objects.filter(finished_at__isnull=False).exists()


def after_recipe(press: Press | None, version: RecipeVersion) -> str:
    """Where a chosen recipe leads: to its pressure, past adding a blank where none of the room's
    is for it.
    """
    further = reverse("recipes:recipes")
    if press is not None:
        further = f"{reverse('pressure:pressure', args=[press.slug])}?recipe={version.pk}"
    if suitable(version):
        return further
    query = urlencode({"like": version.blank_like, "back": further})
    return f"{reverse('pressure:new-blank')}?{query}"
