"""In front of every view: an address that the matrix does not name is closed."""

from collections.abc import Callable
from typing import Any

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse, HttpResponseNotAllowed

from tempermark.web.accounts.matrix.rules import ACCESS, Reach
from tempermark.web.accounts.permissions import must_lead, must_work
from tempermark.web.kit.middleware import BeforeViews

LOOKING, SENDING = ("GET", "HEAD"), ("POST",)


class PermissionGate(BeforeViews):
    """Holds each request to the matrix before its view runs."""

    def process_view(
        self,
        request: HttpRequest,
        view: Callable[..., Any],
        args: tuple[Any, ...],
        kwargs: dict[str, Any],
    ) -> HttpResponse | None:
        """None to go on; 405 for a method that an address has not. Raises PermissionDenied."""
        match = request.resolver_match
        access = ACCESS.get(match.view_name) if match is not None else None
        if access is None:
            raise PermissionDenied("This address is not open to anybody.")
        allowed = [name for name in LOOKING if access.look is not Reach.NOBODY]
        allowed += [name for name in SENDING if access.send is not Reach.NOBODY]
        if request.method not in allowed:
            return HttpResponseNotAllowed(allowed)
        _must_reach(request, access.look if request.method in LOOKING else access.send)
        return None


def _must_reach(request: HttpRequest, level: Reach) -> None:
    user: Any = request.user
    if level is Reach.LEAD:
        must_lead(user)
    elif level in (Reach.TECHNICIAN, Reach.AUTHOR):
        must_work(user)
