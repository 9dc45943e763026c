"""Files that go out: one way to name and send them."""

from typing import TypeVar

from django.http import HttpResponse
from django.http.response import HttpResponseBase

Response = TypeVar("Response", bound=HttpResponseBase)

BINARY = ("application/pdf", "application/zip", "image/png")


def attachment(content: bytes | str, content_type: str, name: str) -> HttpResponse:
    """A file to keep; text is UTF-8. Signs that a name cannot carry everywhere are left out."""
    plain = content_type if content_type in BINARY else f"{content_type}; charset=utf-8"
    return named(HttpResponse(content, content_type=plain), name)


def named(response: Response, name: str) -> Response:
    """A response that is kept under a name."""
    safe = "".join(sign for sign in name if sign.isalnum() or sign in "-._")
    response.headers["Content-Disposition"] = f'attachment; filename="{safe}"'
    return response
