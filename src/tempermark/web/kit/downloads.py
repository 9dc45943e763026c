"""Files that go out: one way to name and send them."""

from collections.abc import AsyncIterator, Iterator
from typing import Any, TypeVar

from asgiref.sync import sync_to_async
from django.core.handlers.asgi import ASGIRequest
from django.db import connections
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.http.response import HttpResponseBase

Response = TypeVar("Response", bound=HttpResponseBase)

PORTION_BYTES = 256 * 1024
BINARY = ("application/pdf", "application/zip", "image/png")


def attachment(content: bytes | str, content_type: str, name: str) -> HttpResponse:
    """A file to keep; text is UTF-8. Signs that a name cannot carry everywhere are left out."""
    plain = content_type if content_type in BINARY else f"{content_type}; charset=utf-8"
    return named(HttpResponse(content, content_type=plain), name)


def in_parts(
    request: HttpRequest, parts: Iterator[str] | Iterator[bytes], content_type: str, name: str
) -> StreamingHttpResponse:
    """A file of any length, never whole in memory: under ASGI read in portions off the event loop,
    where Django would gather a plain iterator first.
    """
    content = _later(parts) if isinstance(request, ASGIRequest) else parts
    return named(StreamingHttpResponse(content, content_type=content_type), name)


async def _later(parts: Iterator[Any]) -> AsyncIterator[bytes]:
    def portion() -> bytes:
        found, size = [], 0
        for part in parts:
            found.append(part.encode() if isinstance(part, str) else part)
            size += len(found[-1])
            if size >= PORTION_BYTES:
                break
        return b"".join(found)

    while content := await sync_to_async(portion)():
        yield content
    await sync_to_async(connections.close_all)()


def named(response: Response, name: str) -> Response:
    """A response that is kept under a name."""
    safe = "".join(sign for sign in name if sign.isalnum() or sign in "-._")
    response.headers["Content-Disposition"] = f'attachment; filename="{safe}"'
    return response
