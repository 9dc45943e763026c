"""Django's record of this app."""

from django.apps import AppConfig


class BenchConfig(AppConfig):
    """The app `bench`."""

    name = "tempermark.web.bench"
    label = "bench"
