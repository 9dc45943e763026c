"""Django's record of this app."""

from django.apps import AppConfig


class TraceConfig(AppConfig):
    """The app `trace`."""

    name = "tempermark.web.trace"
    label = "trace"
    default_auto_field = "django.db.models.BigAutoField"
