"""What test presses and traces teach: the change first, then accepted or left, and taken back."""

import re
from typing import Any

from django import forms
from django.contrib import messages
from django.core.exceptions import ValidationError
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.units import to_si
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.heat.lessons import charts as learn_charts
from tempermark.web.heat.lessons import learning, lessons, trials
from tempermark.web.heat.models import Lesson, StackTrace, subject_label
from tempermark.web.heat.recipe import presses as queries
from tempermark.web.heat.simulate.forms import OnPressForm
from tempermark.web.heat.windows.views import RecipeChoice
from tempermark.web.kit.forms.fields import (
    NumberField,
    PressureField,
    rows_field,
)
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import METRIC, Units
from tempermark.web.recipes.cards.queries import current_versions

FEWEST_SAMPLES, MOST_SAMPLES, LONGEST_TRACE_S = 5, 20_000, 1800.0
MOST_TRACE_BYTES = 1_000_000
LOW_C, HIGH_C = -20.0, 400.0


class TraceForm(OnPressForm):
    """A trace: what was pressed, where the couple lay, and its readings."""

    field_order = ("recipe",)
    recipe = RecipeChoice(None, label="Recipe", empty_label="choose")
    contact_kpa = PressureField(label="Contact", low=1, high=300)
    humidity = NumberField(label="Room humidity", min_value=0, max_value=100, suffix="%")
    place = forms.ChoiceField(
        label="Thermocouple position",
        choices=[("transfer", "under the transfer"), ("blank", "under the blank")],
    )
    file = forms.FileField(label="File", required=False)
    readings = forms.CharField(
        label="or its lines: seconds from closing, temperature",
        required=False,
        max_length=MOST_TRACE_BYTES,
        strip=False,
        widget=forms.Textarea(attrs={"rows": 8, "placeholder": "0.5, 41.2"}),
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.units = kwargs.get("units", METRIC)
        rows_field(self, "recipe").queryset = current_versions()

    def clean(self) -> dict[str, Any]:
        """Readings from the file or the lines, in order."""
        super().clean()
        data = self.cleaned_data
        sent = data.get("file")
        if sent is not None and sent.size > MOST_TRACE_BYTES:
            self.add_error("file", "The file is over 1 MB.")
            return data
        text = data.get("readings") or ""
        if sent is not None:
            text = sent.read().decode("utf-8", errors="replace")
        if not text.strip():
            self.add_error("readings", "Send a file, or type its lines.")
            return data
        try:
            data["time_s"], data["seen_c"] = read_trace(text, self.units)
        except ValidationError as error:
            self.add_error("file" if sent is not None else "readings", error)
        return data


def read_trace(text: str, units: Units) -> tuple[list[float], list[float]]:
    """Times and °C of lines `s, temperature`; ValidationError names the line that is wrong."""
    rows = []
    for number, line in enumerate(text.splitlines(), 1):
        cells = [c for c in re.split(r"[;\t]|,\s+|,(?=\S*\.)|\s+", line.strip()) if c]
        if len(cells) == 1:
            cells = line.strip().split(",")
        if not line.strip() or (number == 1 and not re.match(r"^[-+.\d]", line.strip())):
            continue
        try:
            at, value = (float(cell.replace(",", ".")) for cell in cells[:2])
        except ValueError:
            raise ValidationError(
                f"Line {number}, “{line[:40]}”: right is seconds and a temperature, 0.5; 41.2."
            ) from None
        value = to_si(value, "temperature", units.temperature)
        if not (0 <= at <= LONGEST_TRACE_S and LOW_C <= value <= HIGH_C):
            raise ValidationError(
                f"Line {number}, “{line[:40]}”: 0 to {LONGEST_TRACE_S:g} s and {LOW_C:g} to "
                f"{HIGH_C:g} °C are understood."
            )
        rows.append((at, value))
        if len(rows) > MOST_SAMPLES:
            raise ValidationError(f"Over {MOST_SAMPLES} lines: thin it first.")
    rows.sort()
    if len(rows) < FEWEST_SAMPLES or rows[-1][0] <= rows[0][0]:
        raise ValidationError(f"At least {FEWEST_SAMPLES} readings after each other are needed.")
    return [at for at, _ in rows], [value for _, value in rows]


@require_GET
def page(request: Request) -> HttpResponse:
    """Every subject: what would change, what holds."""
    found = trials.trials_by_surface()
    surfaces = [
        learning.learned_of(code, found[code]) for code in learning.surfaces() if code in found
    ]
    heat = learning.heat_learned()
    context = {
        "headline": learn_charts.headline(surfaces, heat),
        "surfaces": [
            {
                "learned": one,
                "chart": learn_charts.seen_chart(one.taught) if one.taught else None,
                "rows": learn_charts.law_rows(one, request.user.units),
            }
            for one in surfaces
        ],
        "heat": heat,
        "heat_chart": learn_charts.trace_chart(heat.taught, request.user.units)
        if heat.taught
        else None,
        "heat_rows": learn_charts.heat_rows(heat),
        "traces": StackTrace.objects.select_related("recipe__recipe", "element__press", "by")[:50],
        "lessons": Lesson.objects.select_related("by")[:20],
        "requests": queries.open_requests(),
    }
    return render(request, "heat/learn.html", context)


@require_POST
def accept(request: Request, subject: str) -> HttpResponse:
    """What is taught now holds."""
    _must_be_subject(subject)
    lesson = lessons.accept_lesson(request.user, subject)
    if lesson is None:
        messages.error(request, "There is nothing to accept: no piece or trace teaches it.")
    else:
        messages.success(request, f"Accepted: {lesson.label}.")
    return redirect("heat:lessons")


def _must_be_subject(subject: str) -> None:
    if not lessons.is_subject(subject):
        raise Http404("There is no lesson of that name.")


@require_POST
def ask(request: Request, subject: str) -> HttpResponse:
    """Ask a lead to look at what pieces teach."""
    _must_be_subject(subject)
    query = lessons.request_lesson(request.user, subject, request.POST.get("note", ""))
    messages.success(request, f"A lead sees your request on the floor page: {query.label}.")
    return redirect(f"{reverse('heat:lessons')}#{subject}")


@require_POST
def decline(request: Request, subject: str) -> HttpResponse:
    """Leave it as it is: the request is answered."""
    _must_be_subject(subject)
    lessons.decline_lesson(request.user, subject)
    messages.success(request, f"Left unchanged: {subject_label(subject)}.")
    return redirect("heat:lessons")


@require_POST
def revert(request: Request, subject: str) -> HttpResponse:
    """What held before holds again."""
    lesson = lessons.withdraw_lesson(request.user, subject)
    if lesson is None:
        raise Http404("None of that had been accepted.")
    messages.success(request, f"Undone: {lesson.label}.")
    return redirect("heat:lessons")


@require_http_methods(["GET", "POST"])
def new_trace(request: Request) -> HttpResponse:
    """Take a trace in."""
    must_work(request.user)
    units = form_units(request)
    initial = {"contact_kpa": 32.0, "humidity": 50.0, "place": "transfer"}
    form = TraceForm(request.POST or None, request.FILES or None, initial=initial, units=units)
    if request.method == "POST" and form.is_valid():
        lessons.keep_trace(request.user, form.cleaned_data)
        messages.success(request, "The trace is saved; below is what it teaches.")
        return redirect("heat:lessons")
    status = 422 if form.errors else 200
    return render(request, "heat/new_trace.html", {"form": form}, status=status)


@require_POST
def drop_trace(request: Request, pk: int) -> HttpResponse:
    """Leave a trace out, or take it in again."""
    trace = get_object_or_404(StackTrace, pk=pk)
    lessons.turn_trace(request.user, trace, request.POST.get("back") != "1")
    return redirect("heat:lessons")
