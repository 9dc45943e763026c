"""Orders from a shop's own table: sent, its columns matched, its rows taken."""

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods

from tempermark.core.errors import InputError
from tempermark.files.planning.order_table import (
    COLUMN_NAMES,
    NEEDED,
    guessed_columns,
    read_table,
)
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.wording import error_text
from tempermark.web.planning.models import OrderFile
from tempermark.web.planning.orders.importing import orders_in, take_orders

LARGEST_BYTES = 4 * 1024 * 1024
SHOWN_ROWS, SHOWN_REFUSED = 5, 50
LABELS = {
    "reference": "Reference",
    "customer": "For whom",
    "due": "Due",
    "recipe": "Recipe",
    "blank": "Blank",
    "blank_lot": "Lot of blanks",
    "quantity": "Pieces",
    "per_load": "Pieces per load",
    "art_width_mm": "Art, across",
    "art_height_mm": "Art, front to back",
    "note": "Note",
}


class OrderFileForm(forms.Form):
    """The table."""

    file = forms.FileField(label="CSV file", allow_empty_file=True)

    def clean_file(self) -> Any:
        """The upload, within the bound and a table."""
        upload = self.cleaned_data["file"]
        if upload.size > LARGEST_BYTES:
            raise forms.ValidationError(f"{upload.size / 1e6:.0f} MB: at most 4 MB.")
        return upload


@require_http_methods(["GET", "POST"])
def import_orders(request: Request) -> HttpResponse:
    """Send a table of orders."""
    must_work(request.user)
    form = OrderFileForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        upload = form.cleaned_data["file"]
        raw = upload.read()
        try:
            read_table(raw)
            kept, _ = OrderFile.objects.get_or_create(
                entry_key=form_key(request),
                defaults={"name": upload.name[:120], "raw": raw, "created_by": request.user},
            )
            return redirect(kept)
        except InputError as error:
            form.add_error("file", error_text(error, form_units(request)))
    context = {"form": form, "names": COLUMN_NAMES, "needed": NEEDED}
    status = 422 if form.errors else 200
    return render(request, "planning/order_import.html", context, status=status)


class ColumnsForm(forms.Form):
    """Which column of a table is which field of an order."""

    def __init__(self, *args: Any, header: tuple[str, ...], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        columns = [(str(n), name or f"column {n + 1}") for n, name in enumerate(header)]
        for field, label in LABELS.items():
            needed = field in NEEDED
            blank = [("", "choose")] if needed else [("", "not in the file")]
            self.fields[field] = forms.ChoiceField(
                label=label, choices=blank + columns, required=needed
            )

    def columns(self) -> dict[str, int]:
        """Field → column, once the form is valid."""
        return {f: int(n) for f, n in self.cleaned_data.items() if n != ""}


@require_http_methods(["GET", "POST"])
def order_file(request: Request, pk: int) -> HttpResponse:
    """Match a table's columns, see what its rows give, and take them."""
    must_work(request.user)
    file = get_object_or_404(OrderFile, pk=pk)
    table = read_table(bytes(file.raw))
    guess = {field: str(n) for field, n in guessed_columns(table.header).items()}
    form = ColumnsForm(request.POST if request.method == "POST" else guess, header=table.header)
    context: dict[str, Any] = {"file": file, "form": form}
    if form.is_valid():
        if request.method == "POST" and request.POST.get("take") == "1":
            try:
                count = take_orders(request.user, file, form.columns())
                if count:
                    messages.success(request, f"{count} orders taken.")
                return redirect("planning:orders")
            except InputError as error:
                form.add_error(None, error_text(error, form_units(request)))
        found = orders_in(table, form.columns())
        context |= {
            "lines": found.lines[:SHOWN_ROWS],
            "taken": len(found.lines),
            "orders": len({row.line.reference for row in found.lines}),
            "refused": found.refused[:SHOWN_REFUSED],
            "more_refused": max(len(found.refused) - SHOWN_REFUSED, 0),
        }
    status = 422 if request.method == "POST" and form.errors else 200
    return render(request, "planning/order_file.html", context, status=status)
