"""Pages of the instruments."""

from typing import Any

from django.contrib import messages
from django.db import IntegrityError, transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.forms.editing import for_change
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.records.correction_words import corrections
from tempermark.web.measure.instruments import instruments
from tempermark.web.measure.instruments.forms import FixedPointForm, InstrumentForm
from tempermark.web.measure.models import Instrument, InstrumentCheck

FIELDS = tuple(InstrumentForm.base_fields)


@require_GET
def all_instruments(request: Request) -> HttpResponse:
    """Every instrument with its next check."""
    today = timezone.localdate()
    rows = [{"it": i, "overdue": i.days_overdue(today)} for i in Instrument.objects.all()]
    late = [row for row in rows if row["overdue"]]
    return render(request, "measure/instruments.html", {"rows": rows, "late": late})


@require_http_methods(["GET", "POST"])
def edit(request: Request, pk: int | None = None) -> HttpResponse:
    """Add an instrument, or change one."""
    must_work(request.user)
    record = for_change(request, Instrument.objects, pk=pk) if pk else Instrument()
    initial = {name: getattr(record, name) for name in FIELDS}
    form = InstrumentForm(
        request.POST or None, initial=initial, units=form_units(request), record=record
    )
    if request.method == "POST" and form.is_valid():
        try:
            with transaction.atomic():
                instruments.save(request.user, record, form.cleaned_data)
        except IntegrityError:
            form.add_error("name", "There is an instrument of that name already.")
        else:
            return redirect("measure:instruments")
    return _page(
        request,
        record if pk else None,
        form,
        FixedPointForm(units=form_units(request)),
        bool(form.errors),
    )


@require_POST
def check(request: Request, pk: int) -> HttpResponse:
    """An ice- and boiling-point check."""
    must_work(request.user)
    record = get_object_or_404(Instrument, pk=pk)
    units = form_units(request)
    form = FixedPointForm(request.POST, units=units)
    if form.is_valid():
        instruments.note_check(
            request.user,
            record,
            form.cleaned_data["table"],
            on=form.cleaned_data["on"],
            read=form.cleaned_data,
        )
        messages.success(
            request, f"{record.name} is checked and due again {record.due_on:%d %b %Y}."
        )
        return redirect("measure:instruments")
    initial = {name: getattr(record, name) for name in FIELDS}
    return _page(
        request, record, InstrumentForm(initial=initial, units=units, record=record), form, True
    )


def _checks(user: User, record: Instrument) -> dict[str, Any]:
    """Every check of an instrument, withdrawn ones too, and what was corrected of them."""
    found = InstrumentCheck.every.filter(instrument=record)
    words = FixedPointForm(units=user.units)
    rows = [
        {
            "check": check,
            "may_correct": user.may_lead or user.pk == check.by_id,
            # A check that came in a file does not say what was read.
            "is_read": check.ice_c is not None or check.boil_c is not None,
        }
        for check in found
    ]
    changed = [row for check in found for row in corrections(check, words)]
    return {"checks": rows, "corrections": sorted(changed, key=lambda r: r.at, reverse=True)}


def _page(
    request: Request,
    record: Instrument | None,
    form: InstrumentForm,
    check_form: FixedPointForm,
    wrong: bool,
) -> HttpResponse:
    context = {
        "instrument": record,
        "form": form,
        "check_form": check_form,
        **(_checks(request.user, record) if record else {}),
    }
    return render(request, "measure/instrument.html", context, status=422 if wrong else 200)
