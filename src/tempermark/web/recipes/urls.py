"""Recipes and the library."""

from django.urls import path

from tempermark.web.recipes.cards import views as recipe_views
from tempermark.web.recipes.materials import views as library_views

app_name = "recipes"
urlpatterns = [
    path("recipes/", recipe_views.recipes, name="recipes"),
    path("recipes/new/", recipe_views.edit, name="new-recipe"),
    path("recipes/import/", recipe_views.take_in, name="import-recipe"),
    path("library/", library_views.library, name="library"),
    path("library/materials/new/", library_views.material, name="new-material"),
    path("library/materials/<slug:code>/", library_views.material, name="material"),
    path("library/materials/<slug:code>/withdraw/", library_views.withdraw, name="withdraw"),
    path("library/library.json", library_views.library_file, name="library-file"),
    path("recipes/<slug:slug>/change/", recipe_views.edit, name="edit-recipe"),
    path("recipes/<slug:slug>/retire/", recipe_views.retire, name="retire-recipe"),
    path("recipes/<slug:slug>/recipe.json", recipe_views.recipe_file, name="recipe-file"),
    path("recipes/<slug:slug>/versions/", recipe_views.versions, name="versions"),
    path(
        "recipes/<slug:slug>/versions/<int:number>/restore/", recipe_views.restore, name="restore"
    ),
]
