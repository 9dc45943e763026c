"""A database is upgraded, and what its pages then answer as JSON; run by its shell."""

import json

from django.core.management import call_command
from django.test import Client
from django.test.utils import setup_test_environment

from tempermark.web.accounts.models import User
from tempermark.web.kit.records.versions import fit_of_database
from tempermark.web.measure.models import Survey
from tempermark.web.recipes.models import Recipe
from tempermark.web.run.models import TestPress

LISTS = (
    "/",
    "/surveys/",
    "/presses/heron/",
    "/recipes/",
    "/cases/",
    "/logbook/",
    "/plans/",
    "/orders/",
    "/stock/",
    "/people/",
    "/audit/",
    "/lots/",
    "/experiments/",
)


def answers() -> dict[str, int]:
    """The status of every list and of a page behind each."""
    leads = Client()
    leads.force_login(User.objects.get(username="maren"))
    rows = [Survey.objects.first(), TestPress.objects.first(), Recipe.objects.first()]
    pages = [*LISTS, *(row.get_absolute_url() for row in rows)]
    return {page: leads.get(page).status_code for page in pages}


def upgrade_and_look() -> None:
    """Do it, and print what is seen."""
    call_command("migrate", verbosity=0)
    setup_test_environment()
    call_command("makemigrations", check=True, dry_run=True, verbosity=0)
    fit = fit_of_database()
    print(json.dumps({"fit": fit.kind.value, "pending": fit.pending, "pages": answers()}))
