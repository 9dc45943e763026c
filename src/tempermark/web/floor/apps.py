"""Django's record of this app."""

from django.apps import AppConfig


class FloorConfig(AppConfig):
    """The app `floor`."""

    name = "tempermark.web.floor"
    label = "floor"
    default_auto_field = "django.db.models.BigAutoField"
