"""The page “Files”: everything out, everything in."""

from typing import Any

from django import forms
from django.http import Http404, HttpResponse, StreamingHttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_http_methods

from tempermark.core.errors import InputError
from tempermark.web.accounts.permissions import must_lead, must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import attachment, in_parts
from tempermark.web.kit.forms import tables
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.records.audit import record
from tempermark.web.kit.wording import error_text
from tempermark.web.measure.comparisons import files as comparison_files
from tempermark.web.measure.exchange import bulk
from tempermark.web.measure.instruments import files as instrument_files
from tempermark.web.measure.models import Survey
from tempermark.web.measure.surveys import queries
from tempermark.web.overview.archive.writing import room_archive
from tempermark.web.overview.calendar import feed_path
from tempermark.web.presses import event_files, register_files
from tempermark.web.pressure import tables as tables_of_fit
from tempermark.web.run.lots import files as lot_files

TABLES: dict[str, Any] = {
    "register": register_files,
    "events": event_files,
    "instruments": instrument_files,
    "comparisons": comparison_files,
    "lots": lot_files,
    "knobs": tables_of_fit.KNOBS,
    "contacts": tables_of_fit.CONTACTS,
    "raised": tables_of_fit.RAISED,
}
KINDS = {"csv": "text/csv", "json": "application/json"}
LARGEST_TABLE_BYTES = 4 * 1024 * 1024


class ManyFiles(forms.ClearableFileInput):
    """Several files at once."""

    allow_multiple_selected = True


class ManyFilesField(forms.FileField):
    """A list of uploads."""

    widget = ManyFiles

    def clean(self, data: list[Any], initial: Any = None) -> list[Any]:
        """Every upload; at least one."""
        given = data if isinstance(data, (list, tuple)) else [data]
        return [super(ManyFilesField, self).clean(one, initial) for one in given]


class SurveysForm(forms.Form):
    """Survey files, a folder of them, or archives."""

    # The name is that of what is sent; Django's own `files` is set on each form.
    files: Any = ManyFilesField(label="Files or archives", required=False, allow_empty_file=True)
    folder = ManyFilesField(
        label="or a whole folder",
        required=False,
        allow_empty_file=True,
        widget=ManyFiles(attrs={"webkitdirectory": True}),
    )

    def clean(self) -> dict[str, Any]:
        """Names with their bytes, in `given`."""
        super().clean()
        data = self.cleaned_data
        uploads = [u for name in ("files", "folder") for u in data.get(name) or [] if u]
        if not uploads and not self.errors:
            raise forms.ValidationError("Choose at least one file.")
        total = sum(u.size for u in uploads)
        if total > bulk.LARGEST_SUM_BYTES:
            raise forms.ValidationError(f"{total / 1e6:.0f} MB: at most 60. Send them in parts.")
        data["given"] = [(u.name, u.read()) for u in uploads]
        return data


class TableForm(forms.Form):
    """One of the tables."""

    table = forms.ChoiceField(label="It holds", choices=[(n, n) for n in TABLES])
    file = forms.FileField(label="CSV or JSON file", allow_empty_file=True)

    def clean_file(self) -> bytes:
        """The bytes, within the bound."""
        upload = self.cleaned_data["file"]
        if upload.size > LARGEST_TABLE_BYTES:
            raise forms.ValidationError(f"{upload.size / 1e6:.0f} MB: at most 4 MB.")
        return upload.read()


@require_GET
def files(request: Request) -> HttpResponse:
    """What can be taken out and in."""
    return _page(request)


def _page(request: Request, status: int = 200, **more: Any) -> HttpResponse:
    context = {
        "surveys_form": SurveysForm(),
        "table_form": TableForm(),
        "feed": request.build_absolute_uri(feed_path(request.user)),
    }
    return render(request, "overview/files.html", context | more, status=status)


@require_http_methods(["POST"])
def import_surveys(request: Request) -> HttpResponse:
    """Many surveys: each file's outcome in a table."""
    must_work(request.user)
    form = SurveysForm(request.POST, request.FILES)
    if form.is_valid():
        try:
            outcomes = bulk.take_in(request.user, bulk.unpacked(form.cleaned_data["given"]))
            refused = sum(o.survey is None and o.is_refused for o in outcomes)
            taken = sum(o.fresh for o in outcomes)
            status = 422 if refused else 200
            return _page(request, status, outcomes=outcomes, taken=taken, refused=refused)
        except InputError as error:
            form.add_error(None, error_text(error, form_units(request)))
    return _page(request, status=422, surveys_form=form)


@require_http_methods(["POST"])
def import_table(request: Request) -> HttpResponse:
    """A register or instruments, whole or not at all."""
    must_work(request.user)
    form = TableForm(request.POST, request.FILES)
    if form.is_valid():
        chosen = form.cleaned_data["table"]
        try:
            summary = TABLES[chosen].take_in(request.user, form.cleaned_data["file"])
            return _page(request, summary=summary)
        except InputError as error:
            return _page(request, status=422, table_form=form, problems=error.problems)
    return _page(request, status=422, table_form=form)


@require_GET
def table(request: Request, name: str, kind: str) -> HttpResponse:
    """The register or the instruments as a file."""
    source = TABLES.get(name)
    if source is None or kind not in KINDS:
        raise Http404("There is no such file.")
    rows = source.rows()
    if kind == "csv":
        text = tables.to_csv(source.COLUMNS, rows)
    else:
        text = tables.to_json(source.FORMAT, source.KEY, rows)
    return attachment(text, KINDS[kind], f"{name}.{kind}")


@require_GET
def whole_room(request: Request) -> StreamingHttpResponse:
    """Everything of the room as one archive of open formats."""
    must_lead(request.user)
    record(request.user, "took the whole room out", request.user)
    return in_parts(request, room_archive(), "application/zip", "room.zip")


@require_GET
def surveys_archive(request: Request) -> HttpResponse:
    """Finished surveys, newest first, of one press or of all."""
    found = queries.with_names(Survey.objects.exclude(finished_at=None))
    slug = request.GET.get("press", "")
    if slug:
        found = found.filter(element__press__slug=slug)
    data = bulk.archive(found.order_by("-taken_at", "-pk"))
    return attachment(data, "application/zip", f"surveys{'-' if slug else ''}{slug}.zip")
