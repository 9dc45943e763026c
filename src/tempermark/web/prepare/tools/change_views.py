"""Changing a platen's setting: how long it takes, timed once and known better after."""

from datetime import timedelta
from typing import Any

import numpy as np
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
    TimedChange,
    change_time,
    changes_in,
    learned_rates,
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
from tempermark.web.live.models import Minute
from tempermark.web.measure.press.press_temperature import advised_dial, true_temperature
from tempermark.web.prepare.tools.heat_forms import SettingChangeForm
from tempermark.web.presses.models import Element
from tempermark.web.presses.queries import element_in_use
from tempermark.web.run.models import TestPress

# The last changes say what a platen does today; a logger is read this far back.
MOST_CHANGES, MINUTES_BACK = 12, 2000
# A press that was set within this long still holds it.
STILL_SET = timedelta(hours=4)


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


def platen_now_c(element: Element) -> float:
    """Where the platen is, true °C, as far as is known: as it was last changed or pressed, else
    the room.
    """
    since = timezone.now() - STILL_SET
    changed = PlatenChange.objects.filter(element=element, there_at__gte=since).first()
    piece = element.test_presses.filter(pressed_at__gte=since, withdrawn_at=None).first()
    if changed and (piece is None or piece.pressed_at <= changed.there_at):
        return changed.to_c
    return ROOM_C if piece is None else _true_c(element, piece)


def _true_c(element: Element, piece: TestPress) -> float:
    middle = np.array([[element.width_mm / 2, element.height_mm / 2]])
    known = true_temperature(element, middle, piece.set_c, timezone.now())
    return piece.set_c if known is None else float(known.value_c[0])


def _next_c(element: Element, now_c: float) -> float:
    """What the next open job on this press asks for."""
    for job in _open_jobs(element):
        if abs(job.recipe.middle_c - now_c) >= 1:
            return job.recipe.middle_c
    return 195.0


def _open_jobs(element: Element) -> list[Job]:
    rows = Job.objects.filter(press=element.press, closed_at=None).order_by("created_at")
    return list(rows.select_related("recipe__recipe", "blank")[:MOST_ORDERED])


def rates_of(element: Element) -> PlatenRates:
    """How fast this platen heats and cools: by changes that were timed and that a logger saw."""
    rows = PlatenChange.objects.filter(element=element, given_up_at=None).exclude(there_at=None)
    timed = [TimedChange(c.from_c, c.to_c, c.seconds or 0.0) for c in rows[:MOST_CHANGES]]
    return learned_rates([*timed, *_seen_by_logger(element)][:MOST_CHANGES], ROOM_C)


def _seen_by_logger(element: Element) -> list[TimedChange]:
    """Changes in the minutes of the element's last recording."""
    last = Minute.objects.filter(recording__key__element=element).order_by("-at").first()
    if last is None:
        return []
    rows = Minute.objects.filter(recording=last.recording).order_by("-at")[:MINUTES_BACK]
    minutes = [(row.at, [v for v in row.mean_c if v is not None]) for row in reversed(rows)]
    minutes = [(at, values) for at, values in minutes if values]
    if not minutes:
        return []
    begin = minutes[0][0]
    times = np.array([(at - begin).total_seconds() for at, _ in minutes])
    return changes_in(times, np.array([float(np.mean(values)) for _, values in minutes]))


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
