"""Changing a platen's setting: how long it takes, timed once and known better after."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.core.phrases import rough_wait_text
from tempermark.core.preparing.heat.changeover import (
    MOST_ORDERED,
    ChangeTime,
    NeededSetting,
    PlatenRates,
    SettingOrder,
    change_time,
    least_waiting,
)
from tempermark.core.preparing.size.growth import ROOM_C
from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.jobs import actions
from tempermark.web.jobs.models import Job, PlatenChange
from tempermark.web.kit.figures import temperature_text
from tempermark.web.kit.forms.fields import as_typed
from tempermark.web.kit.forms.keys import form_key
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.measure.press.press_temperature import advised_dial
from tempermark.web.prepare.tools.heat_forms import SettingChangeForm
from tempermark.web.prepare.tools.platen import platen_now_c, rates_of
from tempermark.web.presses.models import Element
from tempermark.web.presses.queries import element_in_use


@require_http_methods(["GET", "POST"])
def change(request: Request, slug: str) -> HttpResponse:
    """How long until the platen is there, and the order of today's settings that waits least."""
    element = element_in_use(slug, request.GET.get("element", ""))
    units = form_units(request)
    now_c = platen_now_c(element)
    given = request.POST if request.method == "POST" else request.GET
    usual = {"from_c": now_c, "to_c": _next_c(element, now_c)}
    form = SettingChangeForm(
        given if "to_c" in given else as_typed(SettingChangeForm, usual, units), units=units
    )
    if request.method == "POST":
        must_work(request.user)
        if form.is_valid():
            data = form.cleaned_data
            try:
                key = form_key(request)
                actions.begin_change(request.user, element, data["from_c"], data["to_c"], key)
                return redirect("prepare:change", slug)
            except InputError as error:
                form.add_error("to_c", str(error))
    rates = rates_of(element)
    under_way = PlatenChange.objects.filter(
        element=element, there_at=None, given_up_at=None
    ).first()
    context: dict[str, Any] = {
        "press": element.press,
        "element": element,
        "form": form,
        "rates": rates,
        "heats": _rate_text(rates.heats_k_min, units),
        "cools": _rate_text(rates.cools_k_min, units),
        "under_way": under_way,
        "order": _order(element, now_c, rates, request.user.units),
    }
    if form.is_valid():
        data, mine = form.cleaned_data, request.user.units
        advice = advised_dial(element, data["to_c"], timezone.now())
        time = change_time(data["from_c"], data["to_c"], rates, ROOM_C)
        ends = [temperature_text(data[name], mine) for name in ("from_c", "to_c")]
        context |= {
            "time": time,
            "headline": _headline(element, time, *ends),
            "dial": temperature_text(advice.set_c, mine) if advice else "",
        }
    if under_way is not None:
        ends = [temperature_text(c, request.user.units) for c in (under_way.from_c, under_way.to_c)]
        context["headline"] = f"{element.press.name} is changing: {ends[0]} to {ends[1]}."
    return render(request, "prepare/change.html", context, status=422 if form.errors else 200)


def _headline(element: Element, time: ChangeTime | None, from_text: str, to_text: str) -> str:
    if time is None:
        return f"No room cools a platen to {to_text}."
    needs = rough_wait_text(time.seconds)
    return f"{element.press.name} needs about {needs} from {from_text} to {to_text}."


@require_POST
def end(request: Request, pk: int) -> HttpResponse:
    """The platen is there, or the change is given up."""
    found = get_object_or_404(PlatenChange.objects.select_related("element__press"), pk=pk)
    is_there = request.POST.get("there") == "1"
    is_timed = actions.end_change(request.user, found, is_there)
    if is_there and not is_timed:
        messages.warning(request, "That was too long or too short for one change: not counted.")
    return redirect("prepare:change", found.element.press.slug)


def _next_c(element: Element, now_c: float) -> float:
    """What the next open job on this press asks for."""
    for job in _open_jobs(element):
        if abs(job.recipe.middle_c - now_c) >= 1:
            return job.recipe.middle_c
    return 195.0


def _open_jobs(element: Element) -> list[Job]:
    rows = Job.objects.filter(press=element.press, closed_at=None).order_by("created_at")
    return list(rows.select_related("recipe__recipe", "blank")[:MOST_ORDERED])


def _order(
    element: Element, now_c: float, rates: PlatenRates, units: Units
) -> dict[str, Any] | None:
    """The heated steps of the open jobs on this press, in the order that waits least; None for
    fewer than two.
    """
    needed: list[NeededSetting] = []
    for job in _open_jobs(element):
        before: tuple[int, ...] = ()
        for pressed in job.recipe.heated_steps:
            name = f"{job.blank.name}: {pressed.name}"
            needed.append(NeededSetting(name, pressed.low_c, pressed.high_c, before))
            before = (len(needed) - 1,)
    if not len(needed) >= 2:
        return None
    needed = needed[:MOST_ORDERED]
    found = least_waiting(now_c, needed, rates, ROOM_C)
    return {
        "steps": [
            {"name": needed[n].name, "at": temperature_text(c, units)}
            for n, c in zip(found.order, found.settings_c, strict=True)
        ],
        "seconds": found.seconds,
        "as_listed": _as_listed(now_c, needed, rates).seconds,
    }


def _as_listed(now_c: float, needed: list[NeededSetting], rates: PlatenRates) -> SettingOrder:
    chained = [
        NeededSetting(step.name, step.low_c, step.high_c, (n - 1,) if n else ())
        for n, step in enumerate(needed)
    ]
    return least_waiting(now_c, chained, rates, ROOM_C)


def _rate_text(k_min: float, units: Units) -> str:
    per_min = k_min * (1.8 if units.temperature == "f" else 1.0)
    return f"{per_min:.0f} {units.symbol('difference')} a minute"
