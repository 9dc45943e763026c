"""ASGI entry; gunicorn's uvicorn workers import it."""

from django.conf import settings
from django.core.asgi import get_asgi_application

django_application = get_asgi_application()

# Models can be imported only now that Django is set up.
from tempermark.web.kit.edge import named_proxies, with_edge  # noqa: E402
from tempermark.web.live.stream.stream import with_stream  # noqa: E402

application = with_edge(
    with_stream(django_application), named_proxies(settings.PROXIES), settings.REQUEST_LIMIT_BYTES
)
