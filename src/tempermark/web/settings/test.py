"""Tests: real PostgreSQL, quick hashing, plain static files."""

from tempermark.web.settings.base import *  # noqa: F403  (settings files are layered so)

DEMO = True
SECRET_KEY = "only-for-tests"  # noqa: S105
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
# A pool would hold test databases open.
DATABASES["default"]["OPTIONS"] = dict(PREPARED)  # noqa: F405
AXES_ENABLED = True
# Straight from the sources: nothing is collected before a test.
STATIC_ROOT = None
WHITENOISE_USE_FINDERS = True
