"""Where to go after a form: back to where one came from, on our own pages only."""

from typing import Any
from urllib.parse import urlsplit

from django.utils.http import url_has_allowed_host_and_scheme

BACK_FIELD = "back"


def back_address(request: Any, default: str = "/") -> str:
    """The page that a form names to go back to; `default` for none and for one that is not a path
    of ours.
    """
    named = request.POST.get(BACK_FIELD) or request.GET.get(BACK_FIELD) or ""
    ours = url_has_allowed_host_and_scheme(named, allowed_hosts={request.get_host()})
    return named if ours and named.startswith("/") else default


def opens_only_here(address: str) -> bool:
    """Whether an address leads to this computer alone: no tablet opens it."""
    return urlsplit(address).hostname in ("127.0.0.1", "localhost", "::1")
