"""A shop's own server. `serve` binds to loopback; HTTPS in front sets TEMPERMARK_HTTPS=1; with
`--lan` it speaks HTTPS itself.
"""

import os

from tempermark.web.settings.base import *  # noqa: F403  (settings files are layered so)

DEMO = False
if os.environ.get("TEMPERMARK_HTTPS") == "1":
    # Who asked over HTTPS is said by the proxies that the shop named (kit/serving/edge.py).
    SECURE_SSL_REDIRECT = True
    SESSION_COOKIE_SECURE = True
    CSRF_COOKIE_SECURE = True
    SECURE_HSTS_SECONDS = 60 * 60 * 24 * 365
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]  # noqa: F405
