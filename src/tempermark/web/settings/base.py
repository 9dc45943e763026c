"""Settings shared by demo, tests and production; the launcher gives the environment."""

import os
from pathlib import Path

from csp.constants import NONE, SELF

WEB = Path(__file__).resolve().parent.parent

SECRET_KEY = os.environ.get("TEMPERMARK_SECRET_KEY", "")
DEBUG = False
ALLOWED_HOSTS = os.environ.get("TEMPERMARK_HOSTS", "127.0.0.1,localhost").split(",")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.contrib.postgres",
    "django_htmx",
    "axes",
    "csp",
    "procrastinate.contrib.django",
    "tempermark.web.kit",
    "tempermark.web.accounts",
    "tempermark.web.presses",
    "tempermark.web.measure",
    "tempermark.web.live",
    "tempermark.web.recipes",
    "tempermark.web.printing",
    "tempermark.web.supplies",
    "tempermark.web.jobs",
    "tempermark.web.pressure",
    "tempermark.web.run",
    "tempermark.web.heat",
    "tempermark.web.prepare",
    "tempermark.web.bench",
    "tempermark.web.experiments",
    "tempermark.web.trace",
    "tempermark.web.logbook",
    "tempermark.web.planning",
    "tempermark.web.certificates",
    "tempermark.web.overview",
    "tempermark.web.lan",
    "tempermark.web.demo",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "tempermark.web.kit.middleware.BoundedRequests",
    "tempermark.web.accounts.people.session_cookie.SessionCookie",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "tempermark.web.accounts.pins.short_sessions.ShortSessions",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.auth.middleware.LoginRequiredMiddleware",
    "tempermark.web.accounts.matrix.gate.PermissionGate",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "axes.middleware.AxesMiddleware",
    # The last: a form that carries a key is run here, once.
    "tempermark.web.kit.forms.once.OnceOnly",
]

ROOT_URLCONF = "tempermark.web.urls"
ASGI_APPLICATION = "tempermark.web.asgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [WEB / "templates"],
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "tempermark.web.overview.context.presses",
            ],
            "builtins": [
                "tempermark.web.kit.templatetags.figures",
                "tempermark.web.kit.templatetags.sending",
                "tempermark.web.kit.templatetags.wording",
            ],
        },
    }
]

# No request's work is without a bound: a statement that runs on, a wait for somebody's lock, a
# transaction that is left open (a download that nobody reads). Management commands, which migrate
# and fill, have none.
TIME_OUTS = (
    {
        "statement_timeout": "20s",
        "lock_timeout": "8s",
        "idle_in_transaction_session_timeout": "10min",
    }
    if os.environ.get("TEMPERMARK_WEB") == "1"
    else {}
)
# The database prepares what a connection asks for again and again: planning a query of seven
# tables takes it longer than answering it (docs/decisions/0041-prepared-statements.md).
PREPARED = {"server_side_binding": True, "prepare_threshold": 5}
DATABASES = {
    "default": {
        "ENGINE": "tempermark.web.kit.postgresql",
        "HOST": os.environ.get("TEMPERMARK_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("TEMPERMARK_DB_PORT", "5432"),
        "NAME": os.environ.get("TEMPERMARK_DB_NAME", "tempermark"),
        "USER": os.environ.get("TEMPERMARK_DB_USER", "tempermark"),
        "PASSWORD": os.environ.get("TEMPERMARK_DB_PASSWORD", ""),
        "ATOMIC_REQUESTS": False,
        # The pool tries a connection before it hands it out: one that died is replaced.
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {
            **PREPARED,
            # A worker's eight requests at a time, its two writers of loggers' lines, its streams.
            "pool": {"min_size": 1, "max_size": 12, "timeout": 10},
            "options": " ".join(f"-c {name}={value}" for name, value in TIME_OUTS.items()),
        },
    }
}

AUTH_USER_MODEL = "accounts.User"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
    "tempermark.web.accounts.pins.backend.PinBackend",
]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 10},
    },
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
LOGIN_URL = "accounts:sign-in"
LOGIN_REDIRECT_URL = "overview:floor"
LOGOUT_REDIRECT_URL = "accounts:sign-in"

# Sign-in throttling: per name and address, so that one mistyping person locks nobody else.
AXES_FAILURE_LIMIT = 6
AXES_COOLOFF_TIME = 0.25  # hours
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_LOCKOUT_TEMPLATE = "accounts/locked.html"
AXES_VERBOSE = False

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "img-src": [SELF],
        "font-src": [SELF],
        "connect-src": [SELF],
        "form-action": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
        "manifest-src": [SELF],
        "worker-src": [SELF],
    }
}
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
SESSION_ENGINE = "tempermark.web.accounts.people.session_store"
SESSION_COOKIE_HTTPONLY = True
# Cookies know no ports: rooms on one machine keep theirs apart by name.
if os.environ.get("TEMPERMARK_ROOM"):
    SESSION_COOKIE_NAME = f"session_{os.environ['TEMPERMARK_ROOM']}"
    CSRF_COOKIE_NAME = f"csrf_{os.environ['TEMPERMARK_ROOM']}"
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_AGE = 60 * 60 * 24 * 14
CSRF_FAILURE_VIEW = "tempermark.web.kit.errors.csrf_failure"

# Bounded work per request (see kit.middleware).
DATA_UPLOAD_MAX_MEMORY_SIZE = 2 * 1024 * 1024
DATA_UPLOAD_MAX_NUMBER_FIELDS = 2000
DATA_UPLOAD_MAX_NUMBER_FILES = 501
REQUEST_LIMIT_BYTES = 80 * 1024 * 1024
IMPORT_LIMIT_BYTES = 4 * 1024 * 1024

STATIC_URL = "/static/"
STATICFILES_DIRS = [WEB / "static"]
STATIC_ROOT = os.environ.get("TEMPERMARK_STATIC_ROOT", str(WEB / "static_collected"))
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}

USE_TZ = True
TIME_ZONE = os.environ.get("TEMPERMARK_TIME_ZONE", "UTC")
LANGUAGE_CODE = "en-gb"
USE_I18N = False
FORMAT_MODULE_PATH = None
SILENCED_SYSTEM_CHECKS: list[str] = []

# The command that started this room, where it can open a practice room beside itself; and in a
# practice room the address of the room that opened it.
LAUNCHER = os.environ.get("TEMPERMARK_LAUNCHER", "")
PRACTICE_OF = os.environ.get("TEMPERMARK_PRACTICE_OF", "")

# How tablets reach the room, where it answers the shop's network: addresses of the room and of its
# authority, and its fingerprint (launcher/__main__.py).
LAN = {
    "room": os.environ.get("TEMPERMARK_LAN_ROOM", ""),
    "others": os.environ.get("TEMPERMARK_LAN_OTHERS", "").split(),
    "authority": os.environ.get("TEMPERMARK_LAN_AUTHORITY", ""),
    "fingerprint": os.environ.get("TEMPERMARK_LAN_FINGERPRINT", ""),
    "lasts_until": os.environ.get("TEMPERMARK_LAN_LASTS_UNTIL", ""),
}
# A room that speaks HTTPS itself.
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = bool(LAN["room"])

# Who is believed about the client and the protocol of a request: addresses and networks.
PROXIES = os.environ.get(
    "TEMPERMARK_PROXIES", "127.0.0.1,::1" if os.environ.get("TEMPERMARK_HTTPS") == "1" else ""
)

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
