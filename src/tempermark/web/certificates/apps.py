"""Django's record of this app."""

from django.apps import AppConfig


class CertificatesConfig(AppConfig):
    """The app `certificates`."""

    name = "tempermark.web.certificates"
    label = "certificates"
    default_auto_field = "django.db.models.BigAutoField"
