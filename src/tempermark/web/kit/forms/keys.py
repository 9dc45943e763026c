"""Idempotency keys of entries: the same form sent twice is one entry."""

from uuid import UUID, uuid4

from django.http import HttpRequest

from tempermark.web.kit.forms.once import ONCE_FIELD


def form_key(request: HttpRequest) -> UUID:
    """The key of the form that was sent; a broken or missing one gets a fresh key, so nothing is
    lost.
    """
    try:
        return UUID(request.POST.get(ONCE_FIELD, ""))
    except ValueError:
        return uuid4()
