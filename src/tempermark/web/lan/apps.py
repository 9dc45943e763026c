"""The application of the shop's own network."""

from django.apps import AppConfig


class LanConfig(AppConfig):
    """The shop's own network."""

    name = "tempermark.web.lan"
    label = "lan"
