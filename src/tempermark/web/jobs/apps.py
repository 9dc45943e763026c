"""Django's record of this app."""

from django.apps import AppConfig


class JobsConfig(AppConfig):
    """The app `jobs`."""

    name = "tempermark.web.jobs"
    label = "jobs"
    default_auto_field = "django.db.models.BigAutoField"
