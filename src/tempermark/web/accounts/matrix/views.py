"""The page of permissions."""

from dataclasses import dataclass

from django.http import HttpResponse
from django.shortcuts import render
from django.urls import URLPattern, URLResolver, get_resolver
from django.views.decorators.http import require_GET

from tempermark.web.accounts.matrix.rules import ACCESS, Reach
from tempermark.web.accounts.requests import Request

COLUMNS = (Reach.CLERK, Reach.TECHNICIAN, Reach.LEAD)
# App → what a person calls it.
LABELS = {
    "accounts": "People and sign-in",
    "bench": "Run mode",
    "certificates": "Certificates",
    "demo": "Practice room",
    "experiments": "Experiments and washing",
    "heat": "Heat and lessons",
    "lan": "Tablets",
    "live": "Live readings",
    "logbook": "Logbook",
    "measure": "Surveys and instruments",
    "overview": "Floor, files, backups",
    "planning": "Plan, orders, stock",
    "prepare": "Preparing",
    "presses": "Presses",
    "pressure": "Pressure and blanks",
    "printing": "Art and print settings",
    "recipes": "Recipes and materials",
    "run": "Test presses and lots",
    "supplies": "Prices",
    "trace": "Faults and cases",
}


@dataclass(frozen=True)
class AddressRow:
    """An address as the page shows it: what it is for, and what each role may do there."""

    purpose: str
    address: str
    cells: tuple[str, ...]


@require_GET
def permissions(request: Request) -> HttpResponse:
    """Who may look at and change what, address by address."""
    groups = [(LABELS.get(app, app), rows) for app, rows in _rows().items()]
    context = {"groups": sorted(groups), "columns": ("Clerk", "Technician", "Lead")}
    return render(request, "accounts/permissions.html", context)


def _rows() -> dict[str, list[AddressRow]]:
    found: dict[str, list[AddressRow]] = {}
    for app, pattern in routes():
        access = ACCESS.get(f"{app}:{pattern.name}")
        if access is None:
            continue
        cells = tuple(_cell(level, access.look, access.send) for level in COLUMNS)
        row = AddressRow(_purpose(pattern), f"/{pattern.pattern}", cells)
        found.setdefault(app, []).append(row)
    return found


def routes() -> list[tuple[str, URLPattern]]:
    """Every address of the application with the app it belongs to."""
    return [
        (str(included.app_name), pattern)
        for included in get_resolver().url_patterns
        if isinstance(included, URLResolver)
        for pattern in included.url_patterns
        if isinstance(pattern, URLPattern)
    ]


def _purpose(pattern: URLPattern) -> str:
    """The first sentence of its view."""
    doc = " ".join((pattern.callback.__doc__ or "").split())
    return doc.partition(". ")[0].rstrip(".")


def _cell(level: Reach, look: Reach, send: Reach) -> str:
    """`looks`, `changes`, `changes own` or nothing."""
    if send is not Reach.NOBODY and level >= send:
        return "changes"
    if send is Reach.AUTHOR and level is Reach.TECHNICIAN:
        return "changes own"
    return "looks" if level >= look else "no"
