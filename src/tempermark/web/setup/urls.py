"""Recipes."""

from django.urls import path

from tempermark.web.setup import views

app_name = "setup"
urlpatterns = [
    path("recipes/", views.recipes, name="recipes"),
    path("recipes/<slug:slug>/", views.recipe, name="recipe"),
]
