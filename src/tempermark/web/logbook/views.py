"""The logbook's list, comparison, yield and files."""

from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpResponse, StreamingHttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import in_parts
from tempermark.web.kit.forms.numbers import row_key
from tempermark.web.logbook import export as files
from tempermark.web.logbook.comparing import compared, headline, wash_rows
from tempermark.web.logbook.filters import NEEDED, LogbookForm, matching, page_of
from tempermark.web.logbook.yields import yields_of
from tempermark.web.presses.queries import with_element
from tempermark.web.run.models import PiecePhoto, TestPress

PAGE = 25
LEAST_COMPARED, MOST_COMPARED = 2, 4
KINDS = {
    "csv": ("text/csv; charset=utf-8", files.as_csv),
    "json": ("application/json", files.as_json),
}


@require_GET
def logbook(request: Request) -> HttpResponse:
    """Every press, newest first, with filters."""
    form = LogbookForm(request.GET)
    rows = matching(form)
    page = page_of(rows, request.GET.get("after", ""), PAGE)
    query = filter_query(request)
    context = {
        "form": form,
        "rows": page.rows,
        "page": page,
        "next": f"?{urlencode([*query, ('after', page.after)])}" if page.after else "",
        "first": f"?{urlencode(query)}" if request.GET.get("after") else "",
        "query": urlencode(query),
        "presses": with_element(),
    }
    template = "logbook/_rows.html" if request.htmx else "logbook/logbook.html"
    return render(request, template, context)


def filter_query(request: Request) -> list[tuple[str, str]]:
    """The filters of an address, without the page."""
    return [(n, v) for n in LogbookForm.base_fields if (v := request.GET.get(n, "")[:80])]


@require_GET
def yields(request: Request) -> HttpResponse:
    """How many of the pieces that a filter finds came out well."""
    form = LogbookForm(request.GET)
    found = yields_of(form)
    groups = {
        "By press": found.by_press,
        "By recipe": found.by_recipe,
        "By blank": found.by_blank,
        "By place on the platen": found.by_place,
    }
    context = {
        "form": form,
        "groups": groups,
        "judged": found.judged,
        "good": found.good,
        "is_cut": found.is_cut,
        "query": urlencode(filter_query(request)),
    }
    return render(request, "logbook/yield.html", context)


@require_GET
def compare(request: Request) -> HttpResponse:
    """Two to four presses side by side."""
    keys = [row_key(text) for text in request.GET.getlist("press")[:MOST_COMPARED]]
    rows = TestPress.objects.filter(pk__in=keys).select_related(
        *NEEDED, "job__print_settings__settings"
    )
    by_key = {row.pk: row for row in rows.prefetch_related("marks")}
    presses = [by_key[key] for key in dict.fromkeys(keys) if key in by_key]
    context: dict[str, Any] = {"presses": presses, "least": LEAST_COMPARED}
    if len(presses) >= LEAST_COMPARED:
        found = compared(presses, request.user.units)
        photos = PiecePhoto.objects.filter(piece__in=[p.piece_id for p in presses])
        shown = list(photos.defer("image", "small"))
        washed = sorted({photo.washes for photo in shown})
        context |= {
            "found": found,
            "washes": wash_rows(presses),
            "headline": headline(found, presses),
            "photo_rows": [
                (
                    count,
                    [
                        [f for f in shown if (f.piece_id, f.washes) == (p.piece_id, count)]
                        for p in presses
                    ],
                )
                for count in washed
            ],
        }
    return render(request, "logbook/compare.html", context)


@require_GET
def export(request: Request, kind: str) -> StreamingHttpResponse:
    """What a filter finds as a file."""
    if kind not in KINDS:
        raise Http404("There is no such file.")
    content_type, write = KINDS[kind]
    rows = matching(LogbookForm(request.GET)).select_related(*NEEDED).prefetch_related("marks")
    return in_parts(request, write(rows), content_type, f"logbook.{kind}")
