"""An act that is refused: its reason above the page the person is sent back to."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.contrib import messages
from django.http import HttpRequest

from tempermark.core.errors import InputError
from tempermark.web.kit.forms.units import form_units
from tempermark.web.kit.wording import error_text


@contextmanager
def refusal_shown(request: HttpRequest) -> Iterator[None]:
    """What is wrong, said in the person's units; the view goes on behind the block."""
    try:
        yield
    except InputError as error:
        messages.error(request, error_text(error, form_units(request)))
