"""One form is one act: what was sent already is answered as it was the first time."""

import hashlib
from collections.abc import Callable
from datetime import timedelta
from typing import Any
from uuid import UUID, uuid5

from asgiref.sync import iscoroutinefunction
from django.db import IntegrityError, models, transaction
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from tempermark.web.kit.errors import conflict
from tempermark.web.kit.middleware import BeforeViews

ONCE_FIELD = "once"
# The token of the session changes while a form waits; it is no part of what was meant.
NOT_CONTENT = ("csrfmiddlewaretoken",)
KEPT_FOR = timedelta(days=2)
REFUSED = 400
# A script that sends a form cannot read where it is redirected to.
BY_SCRIPT, GO_TO = "X-By-Script", "X-Go-To"
KEPT_HEADERS = ("Content-Type", "Content-Disposition", "Location", "HX-Trigger")


class SentForm(models.Model):
    """A form that was sent and what was answered: where to, or the page itself."""

    key = models.UUIDField(unique=True)
    at = models.DateTimeField(default=timezone.now, db_index=True)
    status = models.PositiveSmallIntegerField(default=0)
    headers = models.JSONField(default=dict)
    page = models.TextField(blank=True)

    def __str__(self) -> str:
        return f"{self.key}, {self.at:%Y-%m-%d %H:%M}"


class OnceOnly(BeforeViews):
    """Runs the view of a form that carries a key in one transaction with the key.

    The same form sent again, even at the same time, gets the first answer and does nothing. The
    same key with other content, as after the back button, is another act. What is refused is not
    kept, so that it can be sent again. The last of the middleware: the others look at it first.
    """

    def process_view(
        self,
        request: HttpRequest,
        view: Callable[..., Any],
        args: tuple[Any, ...],
        kwargs: dict[str, Any],
    ) -> HttpResponse | None:
        """The answer of the view, or of the first time; a sentence where a race was lost."""
        if request.method != "POST" or iscoroutinefunction(view):
            return None
        key = sent_key(request)
        try:
            if key is None:
                return view(request, *args, **kwargs)
            with transaction.atomic():
                response = _answer(key, lambda: view(request, *args, **kwargs))
        except IntegrityError:
            return conflict(request)
        return _for_script(response) if BY_SCRIPT in request.headers else response


def sent_key(request: HttpRequest) -> UUID | None:
    """The key of a form that was sent, with all that it says; None where it carries none."""
    try:
        once = UUID(request.POST.get(ONCE_FIELD, ""))
    except ValueError:
        return None
    content = hashlib.sha256(f"{request.path} {request.user.pk}".encode())
    for name, values in sorted(request.POST.lists()):
        if name not in NOT_CONTENT:
            content.update(repr((name, values)).encode())
    for name, files in sorted(request.FILES.lists()):
        content.update(repr((name, [(f.name, f.size) for f in files])).encode())
    return uuid5(once, content.hexdigest())


def _answer(key: UUID, act: Callable[..., Any]) -> HttpResponse:
    SentForm.objects.filter(at__lt=timezone.now() - KEPT_FOR).delete()
    # A second one waits here until the first is done.
    _, is_first = SentForm.objects.get_or_create(key=key)
    if not is_first:
        return _again(SentForm.objects.get(key=key))
    response = act()
    if response.status_code >= REFUSED:
        transaction.set_rollback(True)
        return response
    SentForm.objects.filter(key=key).update(
        status=response.status_code,
        headers={name: response[name] for name in KEPT_HEADERS if response.has_header(name)},
        page=response.content.decode(errors="replace"),
    )
    return response


def _for_script(response: HttpResponse) -> HttpResponse:
    """Where to go, said so that a script can read it."""
    if not response.has_header("Location"):
        return response
    answer = HttpResponse(status=204, headers={GO_TO: response["Location"]})
    # What the view gave the browser to keep is kept however the form was sent.
    answer.cookies = response.cookies
    return answer


def _again(sent: SentForm) -> HttpResponse:
    return HttpResponse(sent.page, status=sent.status, headers=sent.headers)
