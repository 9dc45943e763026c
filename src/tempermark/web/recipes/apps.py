"""Django's record of this app."""

from django.apps import AppConfig


class RecipesConfig(AppConfig):
    """The app `recipes`."""

    name = "tempermark.web.recipes"
    label = "recipes"
    default_auto_field = "django.db.models.BigAutoField"
