"""Recipes and blanks."""

from django.urls import path

from tempermark.web.setup import heat_views, views

app_name = "setup"
urlpatterns = [
    path("recipes/", views.recipes, name="recipes"),
    path("blanks/new/", views.blank, name="new-blank"),
    path("blanks/<int:pk>/", views.blank, name="blank"),
    path("recipes/<slug:slug>/heat/", heat_views.page, name="heat"),
    path("recipes/<slug:slug>/heat/platen/", heat_views.platen, name="heat-platen"),
    path("recipes/<slug:slug>/heat/sure/", heat_views.sure, name="heat-sure"),
    path("recipes/<slug:slug>/heat/told/", heat_views.fragment, name="heat-told"),
    path("recipes/<slug:slug>/", views.recipe, name="recipe"),
]
