"""Django's record of this app."""

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """The app `accounts`."""

    name = "tempermark.web.accounts"
    label = "accounts"
    default_auto_field = "django.db.models.BigAutoField"
