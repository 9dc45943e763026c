"""Sign-in, sign-out, unit."""

from typing import Any

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.views import LoginView, logout_then_login
from django.http import HttpResponse, HttpResponseBadRequest
from django.shortcuts import redirect
from django.utils.decorators import method_decorator
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from tempermark.web.accounts import actions
from tempermark.web.accounts.demo import DEMO_PEOPLE
from tempermark.web.accounts.requests import Request


@method_decorator(login_not_required, name="dispatch")
class SignIn(LoginView):
    """The sign-in page; in the demo it shows who may sign in."""

    template_name = "accounts/sign_in.html"
    redirect_authenticated_user = True

    def get_context_data(self, **kwargs: Any) -> dict[str, tuple[tuple[Any, ...], ...]]:
        """The demo's people beside the form."""
        people = DEMO_PEOPLE if getattr(settings, "DEMO", False) else ()
        return super().get_context_data(demo_people=people, **kwargs)


@require_POST
def sign_out(request: Request) -> HttpResponse:
    """End the session."""
    return logout_then_login(request)


@require_POST
def unit(request: Request) -> HttpResponse:
    """Choose °C or °F and go back to the page."""
    try:
        actions.choose_unit(request.user, request.POST.get("unit", ""))
    except ValueError:
        return HttpResponseBadRequest("Unit: c or f.")
    back = request.POST.get("back", "/")
    safe = url_has_allowed_host_and_scheme(back, allowed_hosts={request.get_host()})
    return redirect(back if safe else "/")
