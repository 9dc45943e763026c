"""Pages: change of hands, one's own PIN, the shared tablets."""

from typing import Any

from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_http_methods, require_POST

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import Role, SharedTablet, User
from tempermark.web.accounts.permissions import must_lead, must_work
from tempermark.web.accounts.pins import actions, short_sessions
from tempermark.web.accounts.pins.backend import PATH
from tempermark.web.accounts.pins.forms import PinForm, TabletForm
from tempermark.web.accounts.pins.tablets import mark, tablet_of
from tempermark.web.accounts.requests import Request
from tempermark.web.accounts.throttle import is_address_locked
from tempermark.web.kit.addresses import back_address

LONGEST_NUMBER = 9


@never_cache
@login_not_required
@require_http_methods(["GET", "POST"])
def hands(request: Any) -> HttpResponse:
    """Who takes over this tablet: a name, then the PIN."""
    tablet = tablet_of(request)
    if tablet is None:
        return redirect("accounts:sign-in")
    back = back_address(request)
    why = ""
    if request.method == "POST":
        if is_address_locked(request.META.get("REMOTE_ADDR", "")):
            return render(request, "accounts/locked.html", status=429)
        chosen = _number(request.POST.get("person", ""))
        taken = actions.take_over(tablet, chosen, request.POST.get("pin", "")[:20])
        if taken.person is not None:
            login(request, taken.person, backend=PATH)
            short_sessions.begin(request)
            return redirect(back)
        why = taken.why
    context = {
        "tablet": tablet,
        "people": _with_pin(),
        "chosen": _number(request.POST.get("person") or request.GET.get("person", "")),
        "why": why,
        "back": back,
    }
    return render(request, "accounts/hands.html", context, status=422 if why else 200)


def _with_pin() -> Any:
    people = User.objects.filter(is_active=True, bench_pin__isnull=False)
    return people.exclude(role=Role.CLERK).order_by("username")


def _number(text: str) -> int:
    is_number = text.isascii() and text.isdigit() and len(text) <= LONGEST_NUMBER
    return int(text) if is_number else 0


@require_http_methods(["GET", "POST"])
def pin(request: Request) -> HttpResponse:
    """One's own PIN."""
    must_work(request.user)
    form = PinForm(request.POST or None, person=request.user)
    if request.method == "POST" and form.is_valid():
        try:
            actions.set_pin(request.user, form.cleaned_data["pin"])
        except InputError as error:
            form.add_error("pin", str(error))
        else:
            messages.success(request, "Your PIN is set: it works on the shared tablets.")
            return redirect("accounts:me")
    context = {"form": form, "has_pin": hasattr(request.user, "bench_pin")}
    return render(request, "accounts/pin.html", context, status=422 if form.errors else 200)


@require_POST
def remove_pin(request: Request) -> HttpResponse:
    """No PIN any more."""
    actions.remove_pin(request.user)
    return redirect("accounts:pin")


@never_cache
@require_http_methods(["GET", "POST"])
def shared_tablets(request: Request) -> HttpResponse:
    """The shared tablets; the device in hand becomes one here."""
    must_lead(request.user)
    form = TabletForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            token = actions.share_tablet(request.user, form.cleaned_data["name"])
        except InputError as error:
            form.add_error("name", str(error))
        else:
            response = redirect("accounts:shared-tablets")
            mark(response, token)
            return response
    context = {
        "form": form,
        "tablets": SharedTablet.objects.filter(ended_at=None).select_related("added_by"),
        "this": tablet_of(request),
    }
    return render(
        request, "accounts/shared_tablets.html", context, status=422 if form.errors else 200
    )


@require_POST
def end_tablet(request: Request, pk: int) -> HttpResponse:
    """PINs open nothing on this tablet any more."""
    must_lead(request.user)
    actions.end_tablet(request.user, get_object_or_404(SharedTablet, pk=pk))
    return redirect("accounts:shared-tablets")
