"""A ceiling on what one request may bring."""

from asgiref.sync import iscoroutinefunction, markcoroutinefunction
from django.conf import settings
from django.http import HttpResponse


class BoundedRequests:
    """Refuses a body over `REQUEST_LIMIT_BYTES` before reading it; sync and async."""

    sync_capable = True
    async_capable = True

    def __init__(self, get_response):
        self.get_response = get_response
        if iscoroutinefunction(get_response):
            markcoroutinefunction(self)

    def __call__(self, request):
        if iscoroutinefunction(self):
            return self._answer_async(request)
        return self._refusal(request) or self.get_response(request)

    async def _answer_async(self, request):
        return self._refusal(request) or await self.get_response(request)

    def _refusal(self, request):
        try:
            length = int(request.META.get("CONTENT_LENGTH") or 0)
        except ValueError:
            return HttpResponse("Content-Length is no number.", status=400)
        if length > settings.REQUEST_LIMIT_BYTES:
            return HttpResponse("Too large: send less at once.", status=413)
        return None
