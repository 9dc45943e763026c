"""The shop's own network."""

from django.urls import path

from tempermark.web.lan import views

app_name = "lan"
urlpatterns = [
    path("tablets/", views.tablets, name="tablets"),
    path("tablets/<str:which>.svg", views.code, name="code"),
    path("manifest.webmanifest", views.manifest, name="manifest"),
]
