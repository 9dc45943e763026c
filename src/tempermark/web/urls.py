"""All pages."""

from django.urls import include, path

urlpatterns = [
    # First: what benches send is asked for most.
    path("", include("tempermark.web.bench.urls")),
    path("", include("tempermark.web.accounts.urls")),
    path("", include("tempermark.web.presses.urls")),
    path("", include("tempermark.web.overview.urls")),
    path("", include("tempermark.web.certificates.urls")),
    path("", include("tempermark.web.measure.urls")),
    path("", include("tempermark.web.live.urls")),
    path("", include("tempermark.web.recipes.urls")),
    path("", include("tempermark.web.printing.urls")),
    path("", include("tempermark.web.supplies.urls")),
    path("", include("tempermark.web.prepare.urls")),
    path("", include("tempermark.web.heat.urls")),
    path("", include("tempermark.web.pressure.urls")),
    path("", include("tempermark.web.run.urls")),
    path("", include("tempermark.web.experiments.urls")),
    path("", include("tempermark.web.logbook.urls")),
    path("", include("tempermark.web.planning.urls")),
    path("", include("tempermark.web.lan.urls")),
    path("", include("tempermark.web.trace.urls")),
    path("", include("tempermark.web.demo.urls")),
]

handler400 = "tempermark.web.kit.errors.bad_request"
handler403 = "tempermark.web.kit.errors.forbidden"
handler404 = "tempermark.web.kit.errors.not_found"
handler500 = "tempermark.web.kit.errors.server_error"
