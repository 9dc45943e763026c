"""The planning app."""

from django.apps import AppConfig


class PlanningConfig(AppConfig):
    """Orders, and the day's plan of them."""

    name = "tempermark.web.planning"
    default_auto_field = "django.db.models.BigAutoField"
