"""ASGI entry; gunicorn's uvicorn workers import it."""

import django
from django.conf import settings

django.setup(set_prefix=False)

# Models can be imported only now that Django is set up; and every page is, so that the first
# request does not wait a second for it.
import tempermark.web.urls  # noqa: E402, F401
from tempermark.web.kit.serving.edge import named_proxies, with_edge  # noqa: E402
from tempermark.web.kit.serving.one_thread import OneThreadHandler  # noqa: E402
from tempermark.web.live.stream.stream import with_stream  # noqa: E402

django_application = OneThreadHandler()
application = with_edge(
    with_stream(django_application), named_proxies(settings.PROXIES), settings.REQUEST_LIMIT_BYTES
)
