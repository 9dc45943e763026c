"""The pages of people: all of them for leads, one's own for everybody."""

from django.contrib import messages
from django.contrib.auth import update_session_auth_hash
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_http_methods, require_POST

from tempermark.web.accounts.models import Role, SignUpLink, User
from tempermark.web.accounts.people import actions
from tempermark.web.accounts.people.forms import InviteForm, OwnPasswordForm
from tempermark.web.accounts.people.sessions import end_sessions, sessions_of
from tempermark.web.accounts.permissions import must_lead
from tempermark.web.accounts.requests import Request
from tempermark.web.kit.refusals import refusal_shown

LONGEST_KEY = 18
# Where a session keeps a link until its page shows it.
SHOWN_ONCE = "link_shown_once"


@never_cache
@require_http_methods(["GET", "POST"])
def people(request: Request) -> HttpResponse:
    """Everybody of the shop; one more is invited here, by a link that is shown once."""
    must_lead(request.user)
    form = InviteForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        token = actions.invite(request.user, form.cleaned_data["role"])
        return _shown_next(request, token, "Whoever opens it signs up.")
    context = {
        "form": form,
        "link": request.session.pop(SHOWN_ONCE, None),
        "people": User.objects.order_by("-is_active", "username"),
        "links": SignUpLink.objects.filter(used_at=None, expires_at__gt=timezone.now()),
        "roles": Role.choices,
    }
    status = 422 if form.errors else 200
    return render(request, "accounts/people.html", context, status=status)


@require_POST
def reset(request: Request, pk: int) -> HttpResponse:
    """A link with which a person chooses another password, shown once."""
    must_lead(request.user)
    person = get_object_or_404(User, pk=pk)
    token = actions.reset(request.user, person)
    return _shown_next(request, token, f"With it {person.username} chooses another password.")


def _shown_next(request: Request, token: str, purpose: str) -> HttpResponse:
    """To the page of people, which shows the link once: until then it is in the session alone."""
    address = request.build_absolute_uri(reverse("accounts:sign-up", args=[token]))
    request.session[SHOWN_ONCE] = {"address": address, "purpose": purpose}
    return redirect("accounts:people")


@require_POST
def withdraw(request: Request, pk: int) -> HttpResponse:
    """A link that was not used no longer works."""
    must_lead(request.user)
    actions.withdraw(request.user, get_object_or_404(SignUpLink, pk=pk))
    return redirect("accounts:people")


@require_POST
def set_role(request: Request, pk: int) -> HttpResponse:
    """Another role."""
    must_lead(request.user)
    with refusal_shown(request):
        actions.set_role(request.user, get_object_or_404(User, pk=pk), request.POST.get("role", ""))
    return redirect("accounts:people")


@require_POST
def set_active(request: Request, pk: int) -> HttpResponse:
    """A person may sign in again, or no more."""
    must_lead(request.user)
    with refusal_shown(request):
        active = request.POST.get("active") == "1"
        actions.set_active(request.user, get_object_or_404(User, pk=pk), active)
    return redirect("accounts:people")


@require_http_methods(["GET", "POST"])
def me(request: Request) -> HttpResponse:
    """One's own password, and where one is signed in."""
    form = OwnPasswordForm(request.POST or None, person=request.user)
    if request.method == "POST" and form.is_valid():
        key = request.session.session_key
        actions.choose_password(request.user, form.cleaned_data["password"], key)
        update_session_auth_hash(request, request.user)
        messages.success(request, "Your password is changed; other devices are signed out.")
        return redirect("accounts:me")
    context = {
        "form": form,
        "sessions": sessions_of(request.user),
        "here": request.session.session_key,
    }
    status = 422 if form.errors else 200
    return render(request, "accounts/me.html", context, status=status)


@require_POST
def end(request: Request) -> HttpResponse:
    """One session of one's own ends, or all but this one."""
    which = request.POST.get("which", "")
    is_row = which.isascii() and which.isdigit() and len(which) < LONGEST_KEY
    if which and not is_row:
        return redirect("accounts:me")
    here = request.session.session_key
    many = end_sessions(request.user, but=here, only=int(which) if which else None)
    messages.success(request, f"{many} device{'' if many == 1 else 's'} signed out.")
    return redirect("accounts:me")
