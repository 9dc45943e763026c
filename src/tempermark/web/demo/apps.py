"""Django's record of this app."""

from django.apps import AppConfig


class DemoConfig(AppConfig):
    """The app `demo`."""

    name = "tempermark.web.demo"
    label = "demo"
    default_auto_field = "django.db.models.BigAutoField"
