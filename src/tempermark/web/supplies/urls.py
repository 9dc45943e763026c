"""Prices."""

from django.urls import path

from tempermark.web.supplies import views

app_name = "supplies"
urlpatterns = [path("prices/", views.prices, name="prices")]
