"""Django's record of this app."""

from django.apps import AppConfig


class KitConfig(AppConfig):
    """The app `kit`."""

    name = "tempermark.web.kit"
    label = "kit"
    default_auto_field = "django.db.models.BigAutoField"
