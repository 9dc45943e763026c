"""A press's live readings: the page, the events behind it, keys, surveys kept, files."""

import asyncio
from collections.abc import AsyncIterator
from typing import Any

from asgiref.sync import sync_to_async
from django.db import connections
from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.downloads import in_parts
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.units import Units
from tempermark.web.kit.wording import error_text
from tempermark.web.live.models import Recording
from tempermark.web.live.page import actions, export, queries
from tempermark.web.live.page.charts import live_platen, traces_chart
from tempermark.web.live.page.forms import KeepForm, KeyForm
from tempermark.web.live.page.words import summary
from tempermark.web.live.stream import keys
from tempermark.web.live.stream.hub import hub
from tempermark.web.presses.models import Element
from tempermark.web.presses.queries import element_in_use

# At most so often a viewer is sent something new; at least so often it is looked whether the
# logger fell silent.
SENT_EVERY_S, LOOKED_EVERY_S = 1.0, 3.0
# After this the browser connects again, so that a person who may no longer look is let go.
LONGEST_S = 600.0
PARTS = ("summary", "platen", "traces")
MOST_LISTED = 20


def panel(element: Element, units: Units, window_min: int) -> dict[str, Any] | None:
    """What the live panel shows; None while no logger sends."""
    view = queries.live(element, timezone.now())
    if view is None:
        return None
    thinned = queries.traces(view, window_min)
    return {
        "view": view,
        "summary": summary(view, units, timezone.now()),
        "platen": live_platen(view, units),
        "traces": traces_chart(view, thinned, window_min, units),
        "window": window_min,
    }


def window_of(request: Request) -> int:
    """The minutes asked for; others than offered fall back to the usual."""
    query = request.GET.get("minutes", "")
    offered = {str(w): w for w in queries.WINDOWS_MIN}
    return offered.get(query, queries.DEFAULT_WINDOW_MIN)


@require_GET
def live(request: Request, slug: str) -> HttpResponse:
    """The press's live readings."""
    element = element_in_use(slug)
    return _page(
        request,
        element,
        KeyForm(units=form_units(request), element=element, initial={"grid": "3x3"}),
    )


def _page(
    request: Request, element: Element, form: KeyForm, status: int = 200, **more: Any
) -> HttpResponse:
    units = request.user.units
    window = window_of(request)
    context = {
        "press": element.press,
        "element": element,
        "live": panel(element, units, window),
        "window": window,
        "windows": queries.WINDOWS_MIN,
        "key": queries.key_on(element),
        "key_form": form,
        "recordings": queries.recordings(element)[:MOST_LISTED],
        "keep_form": KeepForm(units=units, initial={"set_c": element.press.dial_c}),
    }
    response = render(request, "live/live.html", context | more, status=status)
    response["Cache-Control"] = "no-store"
    return response


@require_GET
async def events(request: Request, slug: str) -> Any:
    """Server-sent events: `summary`, `platen`, `traces`, each when it has changed."""
    user = await request.auser()
    element = await sync_to_async(element_in_use)(slug)
    response = StreamingHttpResponse(
        _events(element, user, window_of(request)), content_type="text/event-stream"
    )
    response["Cache-Control"] = "no-cache, no-store"
    response["X-Accel-Buffering"] = "no"
    return response


async def _events(element: Element, user: Any, window_min: int) -> AsyncIterator[str]:
    loop = asyncio.get_running_loop()
    ends, sent = loop.time() + LONGEST_S, dict.fromkeys(PARTS, "")
    async with hub().watching(element.pk) as woken:
        yield "retry: 2000\n\n"
        while loop.time() < ends:
            woken.clear()
            parts = await sync_to_async(_parts)(element, user, window_min)
            changed = [name for name in PARTS if parts[name] != sent[name]]
            for name in changed:
                yield _event(name, parts[name])
            if not changed:
                yield ": still here\n\n"
            sent = parts
            await asyncio.sleep(SENT_EVERY_S)
            try:
                await asyncio.wait_for(woken.wait(), LOOKED_EVERY_S)
            except TimeoutError:
                pass


def _parts(element: Any, user: User, window_min: int) -> dict[str, str]:
    """The panel's parts as HTML; the connection goes back to the pool."""
    try:
        shown = panel(element, user.units, window_min)
        context = {"live": shown, "press": element.press, "element": element, "user": user}
        return {name: render_to_string(f"live/_{name}.html", context).strip() for name in PARTS}
    finally:
        connections.close_all()


def _event(name: str, html: str) -> str:
    lines = "".join(f"data: {line}\n" for line in html.splitlines())
    return f"event: {name}\n{lines}\n"


@require_POST
def make_key(request: Request, slug: str) -> HttpResponse:
    """A key for a logger; shown on the answer and never again."""
    element = element_in_use(slug)
    form = KeyForm(request.POST, units=form_units(request), element=element)
    if not form.is_valid():
        return _page(request, element, form, status=422)
    data = form.cleaned_data
    try:
        secret = keys.make_key(request.user, element, data["instrument"], data["places"])
    except InputError as error:
        form.add_error(None, error_text(error, form_units(request)))
        return _page(request, element, form, status=422)
    address = request.build_absolute_uri("/live/stream/")
    return _page(
        request,
        element,
        KeyForm(units=form_units(request), element=element),
        secret=secret,
        address=address,
    )


@require_POST
def end_key(request: Request, slug: str) -> HttpResponse:
    """The logger may write no more."""
    element = element_in_use(slug)
    key = queries.key_on(element)
    if key is not None:
        keys.end_key(request.user, key)
    return redirect("live:live", slug=slug)


@require_POST
def keep(request: Request, slug: str) -> HttpResponse:
    """The last minute as a survey."""
    element = element_in_use(slug)
    form = KeepForm(request.POST, units=form_units(request))
    view = queries.live(element, timezone.now())
    if form.is_valid() and view is not None:
        try:
            return redirect(actions.keep_survey(request.user, view, form.cleaned_data["set_c"]))
        except InputError as error:
            form.add_error(None, error_text(error, form_units(request)))
    elif view is None:
        form.add_error(None, "No logger is sending at the moment: there is nothing to save.")
    key_form = KeyForm(units=form_units(request), element=element)
    return _page(request, element, key_form, status=422, keep_form=form)


@require_GET
def recording_file(request: Request, pk: int, kind: str) -> StreamingHttpResponse:
    """A recording's raw readings as CSV or as the lines of `live/1`."""
    recording = get_object_or_404(Recording.objects.select_related("key"), pk=pk)
    lines = export.csv_lines(recording) if kind == "csv" else export.stream_lines(recording)
    types = {"csv": "text/csv", "ndjson": "application/x-ndjson"}
    return in_parts(
        request, lines, f"{types[kind]}; charset=utf-8", f"recording-{recording.pk}.{kind}"
    )
