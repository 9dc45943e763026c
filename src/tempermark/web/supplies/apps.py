"""Django's record of this app."""

from django.apps import AppConfig


class SuppliesConfig(AppConfig):
    """The app `supplies`."""

    name = "tempermark.web.supplies"
    label = "supplies"
    default_auto_field = "django.db.models.BigAutoField"
