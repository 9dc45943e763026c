"""Clocks: the strip on every page, and what is done to one."""

from typing import Any
from uuid import uuid5

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.core.preparing.after_press import FIRST_WASH_S
from tempermark.core.preparing.checklist import PRINT_DRIES_S
from tempermark.core.preparing.waits import LOOK_EVERY_S, Wait
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.jobs import actions, queries
from tempermark.web.jobs.models import Clock, Job
from tempermark.web.kit.addresses import back_address
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.numbers import number, row_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.refusals import refusal_shown
from tempermark.web.prepare.clocks.forms import ClockForm

LONGER_S = 60.0
# What is waited for most often, whatever is pressed.
USUAL_WAITS = (
    Wait("print dry", PRINT_DRIES_S),
    Wait("look at it", LOOK_EVERY_S, repeats=True),
    Wait("first wash", FIRST_WASH_S),
)
# So many clocks are started by one tap at most.
MOST_TOGETHER = 12


@require_GET
def strip(request: Request) -> HttpResponse:
    """The clocks that run or ring, as every page shows them."""
    return render(request, "components/_clocks.html", _shown(request))


@require_http_methods(["GET", "POST"])
def clocks(request: Request) -> HttpResponse:
    """All clocks, and one of one's own."""
    form = ClockForm(request.POST or None, units=form_units(request))
    if request.method == "POST":
        must_work(request.user)
        if form.is_valid():
            data = form.cleaned_data
            actions.start_clock(request.user, data["name"], data["seconds"], form_key(request))
            return redirect("prepare:clocks")
    rows = queries.running()
    context = {"form": form, "rows": rows, "now": timezone.now(), "usual": USUAL_WAITS}
    return render(request, "prepare/clocks.html", context, status=422 if form.errors else 200)


@require_POST
def start(request: Request) -> HttpResponse:
    """A clock from the line it belongs to, or all that run together: one tap."""
    job = Job.objects.filter(pk=row_key(request.POST.get("job", ""))).first()
    line, key = request.POST.get("line", "")[:20], form_key(request)
    names, waits = (request.POST.getlist(part)[:MOST_TOGETHER] for part in ("name", "seconds"))
    repeats = request.POST.getlist("repeats")
    with refusal_shown(request):
        if not waits:
            raise InputError.single("seconds", "How long it runs is not known.")
        for count, text in enumerate(waits):
            seconds = number(text)
            if seconds is None:
                raise InputError.single("seconds", "How long it runs is not a number.")
            name = names[count].strip()[:60] if count < len(names) else ""
            own = key if count == 0 else uuid5(key, str(count))
            again = str(count) in repeats
            actions.start_clock(request.user, name or "clock", seconds, own, job, line, again)
    return _back(request)


@require_POST
def lengthen(request: Request, pk: int) -> HttpResponse:
    """A minute more."""
    with refusal_shown(request):
        actions.lengthen(request.user, get_object_or_404(Clock, pk=pk), LONGER_S)
    return _back(request)


@require_POST
def hear(request: Request, pk: int) -> HttpResponse:
    """It rang and somebody heard it."""
    actions.hear(request.user, get_object_or_404(Clock, pk=pk))
    return _back(request)


@require_POST
def stop(request: Request, pk: int) -> HttpResponse:
    """Not needed any more."""
    actions.stop(request.user, get_object_or_404(Clock, pk=pk))
    return _back(request)


def _back(request: Request) -> HttpResponse:
    if request.htmx:
        return render(request, "components/_clocks.html", _shown(request))
    return redirect(back_address(request, "/clocks/"))


def _shown(request: Request) -> dict[str, Any]:
    return {"clocks": queries.running(), "back": back_address(request, "")}
