"""A request of somebody who is signed in: every page but the sign-in has one."""

from django.http import HttpRequest
from django_htmx.middleware import HtmxDetails

from tempermark.web.accounts.models import User


class Request(HttpRequest):
    """For types alone: what a view is called with behind the sign-in."""

    user: User
    htmx: HtmxDetails
