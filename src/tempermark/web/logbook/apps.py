"""Django's record of this app."""

from django.apps import AppConfig


class LogbookConfig(AppConfig):
    """The app `logbook`."""

    name = "tempermark.web.logbook"
    label = "logbook"
