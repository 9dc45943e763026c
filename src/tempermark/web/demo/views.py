"""Opening the practice room, and throwing it away."""

import subprocess

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from tempermark.web.accounts.permissions import must_work
from tempermark.web.accounts.requests import Request
from tempermark.web.demo import practice


@require_GET
def page(request: Request) -> HttpResponse:
    """What the practice room is, and its state."""
    _must_be_offered()
    return render(request, "demo/practice.html", {"room": practice.state()})


@require_GET
def state(request: Request) -> HttpResponse:
    """Its state again, while it is made ready."""
    _must_be_offered()
    return render(request, "demo/_practice.html", {"room": practice.state()})


@require_POST
def start(request: Request) -> HttpResponse:
    """Open it."""
    _must_be_offered()
    must_work(request.user)
    practice.start(request.build_absolute_uri("/"))
    return redirect("demo:practice")


@require_POST
def discard(request: Request) -> HttpResponse:
    """Throw it away."""
    _must_be_offered()
    must_work(request.user)
    try:
        practice.discard()
    except (subprocess.SubprocessError, OSError):
        messages.error(request, "It could not be thrown away: try ./tempermark stop.")
    else:
        messages.success(request, "The practice room is gone, with all that was done in it.")
    return redirect("demo:practice")


def _must_be_offered() -> None:
    if not practice.is_offered():
        raise Http404("This room opens no practice room.")
