"""What one request may bring: so much, and text that the database can hold."""

from collections.abc import Callable
from typing import Any, cast

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from tempermark.web.kit.errors import bad_request

FORM_TYPES = ("application/x-www-form-urlencoded", "multipart/form-data")


class BeforeViews:
    """What looks at a request just before its view and has nothing to do with the answer. Those
    that extend it have a `process_view`.
    """

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return cast(HttpResponse, self.get_response(request))


class BoundedRequests:
    """Refuses a body over `REQUEST_LIMIT_BYTES` before reading it, and text with a NUL."""

    def __init__(self, get_response: Callable[..., Any]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self._refusal(request) or self.get_response(request)

    def process_view(
        self,
        request: HttpRequest,
        view: Callable[..., Any],
        args: tuple[Any, ...],
        kwargs: dict[str, Any],
    ) -> Any:
        """Refuse text with a NUL, which no person types and no database keeps."""
        given = [request.GET, request.POST] if request.content_type in FORM_TYPES else [request.GET]
        texts = [name + value for data in given for name, many in data.lists() for value in many]
        texts += [str(value) for value in kwargs.values()]
        return bad_request(request) if any("\0" in text for text in texts) else None

    def _refusal(self, request: HttpRequest) -> Any:
        try:
            length = int(request.META.get("CONTENT_LENGTH") or 0)
        except ValueError:
            return HttpResponse("Content-Length is no number.", status=400)
        if length > settings.REQUEST_LIMIT_BYTES:
            return HttpResponse("Too large: send less at once.", status=413)
        return None
