"""Sign-up, sign-in, sign-out, units."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any, cast
from urllib.parse import urlencode

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView, logout_then_login
from django.http import HttpResponse, HttpResponseBadRequest
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.decorators import method_decorator
from django.views.decorators.http import require_http_methods, require_POST

from tempermark.web.accounts import actions, sign_up
from tempermark.web.accounts.demo import DEMO_PASSWORD, DEMO_PEOPLE
from tempermark.web.accounts.forms import SignUpForm
from tempermark.web.accounts.models import UNIT_CHOICES, SignUpLink, User
from tempermark.web.accounts.people.actions import choose_by_link
from tempermark.web.accounts.people.forms import NewPasswordForm
from tempermark.web.accounts.pins.tablets import may_be_shared, tablet_of
from tempermark.web.accounts.requests import Request
from tempermark.web.accounts.throttle import is_address_locked
from tempermark.web.kit.addresses import back_address
from tempermark.web.kit.figures import (
    difference_text,
    length_text,
    mass_text,
    pressure_text,
    temperature_text,
    volume_text,
)
from tempermark.web.kit.units import Units


@method_decorator(login_not_required, name="dispatch")
class SignIn(LoginView):
    """The sign-in page; in the demo it shows who may sign in."""

    template_name = "accounts/sign_in.html"

    def dispatch(self, request: Any, *args: Any, **kwargs: Any) -> HttpResponse:
        """A shared tablet asks for a PIN first; whoever took over by PIN may give the password."""
        by_pin = getattr(request.user, "by_pin", False)
        self.redirect_authenticated_user = not by_pin
        wants_pin = request.method == "GET" and "password" not in request.GET
        if wants_pin and not request.user.is_authenticated and tablet_of(request) is not None:
            back = urlencode({"back": request.GET.get("next", "/")})
            return redirect(f"{reverse('accounts:hands')}?{back}")
        return cast(HttpResponse, super().dispatch(request, *args, **kwargs))

    def post(self, request: Any, *args: Any, **kwargs: Any) -> HttpResponse:
        """Sign in, unless too many have failed from there, whatever names they gave."""
        if is_address_locked(request.META.get("REMOTE_ADDR", "")):
            return render(request, "accounts/locked.html", status=429)
        return super().post(request, *args, **kwargs)

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        """The demo's people beside the form."""
        demo = getattr(settings, "DEMO", False)
        return super().get_context_data(
            demo_people=DEMO_PEOPLE if demo else (),
            demo_password=DEMO_PASSWORD if demo else "",
            is_shared=may_be_shared(self.request),
            is_new=not demo and not sign_up.has_lead(),
            **kwargs,
        )


@login_not_required
@require_http_methods(["GET", "POST"])
def sign_up_page(request: Any, token: str) -> HttpResponse:
    """Sign up with a link that works once, and begin."""
    link = sign_up.open_link(token)
    if link is None:
        return render(request, "accounts/link_used.html", status=410)
    if link.for_person is not None:
        return _new_password(request, link, link.for_person)
    form = SignUpForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        user = sign_up.sign_up(link, data["name"], data["password"], form.chosen_units())
        if user is None:
            return render(request, "accounts/link_used.html", status=410)
        login(request, user, backend="django.contrib.auth.backends.ModelBackend")
        return redirect(settings.LOGIN_REDIRECT_URL)
    status = 422 if form.errors else 200
    return render(request, "accounts/sign_up.html", {"form": form, "link": link}, status=status)


def _new_password(request: Any, link: SignUpLink, person: User) -> HttpResponse:
    """Somebody who is there already chooses another password."""
    form = NewPasswordForm(request.POST or None, person=person)
    if request.method == "POST" and form.is_valid():
        user = choose_by_link(link, form.cleaned_data["password"])
        if user is None:
            return render(request, "accounts/link_used.html", status=410)
        login(request, user, backend="django.contrib.auth.backends.ModelBackend")
        return redirect(settings.LOGIN_REDIRECT_URL)
    context = {"form": form, "person": person}
    status = 422 if form.errors else 200
    return render(request, "accounts/new_password.html", context, status=status)


@require_POST
def sign_out(request: Request) -> HttpResponse:
    """End the session."""
    return logout_then_login(request)


@require_http_methods(["GET", "POST"])
def units(request: Request) -> HttpResponse:
    """Choose units, all or one, and go back to the page one came from."""
    back = back_address(request)
    if request.method == "GET":
        return render(request, "accounts/units.html", {"rows": _unit_rows(request), "back": back})
    try:
        actions.choose_units(request.user, request.POST.dict())
    except ValueError:
        return HttpResponseBadRequest("There is no such unit.")
    return redirect(back)


def _unit_rows(request: Request) -> list[dict[str, Any]]:
    """What may be chosen for each quantity, each with the same example in it."""
    chosen = request.user.units
    return [
        {
            "quantity": quantity,
            "label": quantity.capitalize(),
            "options": [
                {
                    "value": unit,
                    "label": label,
                    "chosen": chosen.of(quantity) == unit,
                    "example": _EXAMPLES[quantity](replace(chosen, **{quantity: unit})),
                }
                for unit, label in choices.choices
            ],
        }
        for quantity, choices in UNIT_CHOICES.items()
    ]


_EXAMPLES: dict[str, Callable[[Units], str]] = {
    "temperature": lambda units: f"{temperature_text(195, units)}, {difference_text(6, units)}",
    "length": lambda units: f"{length_text(300, units)}, {length_text(0.5, units, 1)}",
    "pressure": lambda units: f"{pressure_text(40, units)}, {pressure_text(550, units)}",
    "volume": lambda units: volume_text(250, units),
    "mass": lambda units: mass_text(12, units),
}
