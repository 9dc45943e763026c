"""The page of the record and its files; for leads."""

import csv
import json
from collections.abc import Iterator

from django.db.models import QuerySet
from django.http import Http404, HttpResponse, StreamingHttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from tempermark.web.accounts.audit import queries
from tempermark.web.accounts.audit.forms import AuditForm
from tempermark.web.accounts.audit.words import say_entry
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import in_parts
from tempermark.web.kit.forms.tables import Echo, guarded
from tempermark.web.kit.paging import page_of
from tempermark.web.kit.records.audit import AuditEntry

PAGE = 50
FORMAT = "tempermark.audit/1"
COLUMNS = ("at", "who", "did", "subject", "name", "detail")
CHUNK = 500
# A file of more is taken out by months.
MOST_EXPORTED = 200_000


@require_GET
def audit(request: Request) -> HttpResponse:
    """Who changed what and when, newest first, with filters."""
    must_lead(request.user)
    form = AuditForm(request.GET)
    page = page_of(queries.entries(form.filters()), request.GET, "at", PAGE)
    query = request.GET.copy()
    query.pop("after", None)
    context = {
        "form": form,
        "page": page,
        "rows": [say_entry(entry, request.user.units) for entry in page.rows],
        "is_narrowed": any(query.values()),
        "query": query.urlencode(),
    }
    return render(request, "accounts/audit.html", context)


@require_GET
def history(request: Request, about: str) -> HttpResponse:
    """The history of one thing, for everybody: `presses.press:3`. That of people is for leads."""
    if about.startswith("accounts."):
        must_lead(request.user)
    page = page_of(queries.about(about), request.GET, "at", PAGE)
    rows = [say_entry(entry, request.user.units) for entry in page.rows]
    return render(request, "accounts/history.html", {"rows": rows, "page": page})


@require_GET
def export(request: Request, kind: str) -> StreamingHttpResponse:
    """What the filters find, as a file, oldest last."""
    must_lead(request.user)
    if kind not in KINDS:
        raise Http404("There is no such file.")
    content_type, write = KINDS[kind]
    rows = queries.entries(AuditForm(request.GET).filters())[:MOST_EXPORTED]
    return in_parts(request, write(rows), content_type, f"audit.{kind}")


def _row_of(entry: AuditEntry) -> tuple[str, ...]:
    who = entry.who.username if entry.who else ""
    detail = json.dumps(entry.detail, ensure_ascii=False)
    return (entry.at.isoformat(), who, entry.did, entry.subject, entry.name, detail)


def _as_csv(rows: QuerySet[AuditEntry]) -> Iterator[str]:
    writer = csv.writer(Echo(), lineterminator="\n")
    yield writer.writerow(COLUMNS)
    for entry in rows.iterator(chunk_size=CHUNK):
        yield writer.writerow([guarded(value) for value in _row_of(entry)])


def _as_json(rows: QuerySet[AuditEntry]) -> Iterator[str]:
    yield f'{{"format": "{FORMAT}", "entries": ['
    before = "\n"
    for entry in rows.iterator(chunk_size=CHUNK):
        kept = {**dict(zip(COLUMNS, _row_of(entry), strict=True)), "detail": entry.detail}
        yield before + json.dumps(kept, ensure_ascii=False)
        before = ",\n"
    yield "\n]}\n"


KINDS = {"csv": ("text/csv; charset=utf-8", _as_csv), "json": ("application/json", _as_json)}
