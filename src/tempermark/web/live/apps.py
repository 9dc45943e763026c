"""Django's record of this app."""

from django.apps import AppConfig


class LiveConfig(AppConfig):
    """The app `live`."""

    name = "tempermark.web.live"
    label = "live"
    default_auto_field = "django.db.models.BigAutoField"
