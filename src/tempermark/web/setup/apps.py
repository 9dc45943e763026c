"""Django's record of this app."""

from django.apps import AppConfig


class SetupConfig(AppConfig):
    """The app `setup`."""

    name = "tempermark.web.setup"
    label = "setup"
    default_auto_field = "django.db.models.BigAutoField"
