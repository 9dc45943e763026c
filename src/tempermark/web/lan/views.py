"""How a tablet is brought in: the page, its codes, and what makes it an application."""

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import render
from django.templatetags.static import static
from django.views.decorators.http import require_GET

from tempermark.web.accounts.requests import Request
from tempermark.web.kit.drawing.codes import code_response


@require_GET
def tablets(request: Request) -> HttpResponse:
    """What to scan, in order; printed it is the sheet at the door."""
    return render(request, "lan/tablets.html", {"lan": settings.LAN})


@require_GET
def code(request: Request, which: str) -> HttpResponse:
    """The code of one of the addresses."""
    if not settings.LAN["room"] or which not in ("authority", "room"):
        raise Http404("There is no such code.")
    return code_response(str(settings.LAN[which]))


@login_not_required
@require_GET
def manifest(request: Request) -> HttpResponse:
    """What a home screen needs to know (W3C Web Application Manifest)."""
    icons = [
        {"src": static("tempermark/favicon.svg"), "sizes": "any", "type": "image/svg+xml"},
        {"src": static("tempermark/icon-192.png"), "sizes": "192x192", "type": "image/png"},
        {"src": static("tempermark/icon-512.png"), "sizes": "512x512", "type": "image/png"},
    ]
    described = {
        "name": "Tempermark",
        "short_name": "Tempermark",
        "start_url": "/",
        "scope": "/",
        "display": "standalone",
        "background_color": "#f3f2ec",
        "theme_color": "#f3f2ec",
        "icons": icons,
    }
    return JsonResponse(described, content_type="application/manifest+json")
