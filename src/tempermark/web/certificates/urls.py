"""Certificates."""

from django.urls import path

from tempermark.web.certificates import views

app_name = "certificates"
urlpatterns = [
    path("surveys/<int:pk>/sign/", views.sign, name="sign"),
    path(
        "certificates/<int:number>/<int:version>/",
        views.certificate,
        name="certificate",
    ),
    path(
        "certificates/<int:number>/<int:version>/certificate.json",
        views.as_json,
        name="json",
    ),
    path(
        "certificates/<int:number>/<int:version>/certificate.pdf",
        views.pdf,
        name="pdf",
    ),
]
