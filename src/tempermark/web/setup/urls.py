"""Recipes and blanks."""

from django.urls import path

from tempermark.web.setup import views

app_name = "setup"
urlpatterns = [
    path("recipes/", views.recipes, name="recipes"),
    path("blanks/new/", views.blank, name="new-blank"),
    path("blanks/<int:pk>/", views.blank, name="blank"),
    path("recipes/<slug:slug>/", views.recipe, name="recipe"),
]
