"""Recipes, the heat, the library, and blanks."""

from django.urls import path

from tempermark.web.setup import (
    heat_views,
    learn_views,
    library_views,
    recipe_views,
    views,
    window_views,
)

app_name = "setup"
urlpatterns = [
    path("recipes/", recipe_views.recipes, name="recipes"),
    path("recipes/new/", recipe_views.edit, name="new-recipe"),
    path("recipes/take-in/", recipe_views.take_in, name="take-in-recipe"),
    path("windows/", window_views.page, name="windows"),
    path("windows/told/", window_views.fragment, name="windows-told"),
    path("library/", library_views.library, name="library"),
    path("library/materials/new/", library_views.material, name="new-material"),
    path("library/materials/<slug:code>/", library_views.material, name="material"),
    path("library/materials/<slug:code>/withdraw/", library_views.withdraw, name="withdraw"),
    path("library/library.json", library_views.library_file, name="library-file"),
    path("learn/", learn_views.page, name="learn"),
    path("learn/traces/new/", learn_views.new_trace, name="new-trace"),
    path("learn/traces/<int:pk>/turn/", learn_views.drop_trace, name="turn-trace"),
    path("learn/<slug:subject>/accept/", learn_views.accept, name="accept-lesson"),
    path("learn/<slug:subject>/ask/", learn_views.ask, name="ask-lesson"),
    path("learn/<slug:subject>/decline/", learn_views.decline, name="decline-lesson"),
    path("learn/<slug:subject>/revert/", learn_views.revert, name="revert-lesson"),
    path("blanks/new/", views.blank, name="new-blank"),
    path("blanks/<int:pk>/", views.blank, name="blank"),
    path("recipes/<slug:slug>/heat/", heat_views.page, name="heat"),
    path("recipes/<slug:slug>/heat/platen/", heat_views.platen, name="heat-platen"),
    path("recipes/<slug:slug>/heat/sure/", heat_views.sure, name="heat-sure"),
    path("recipes/<slug:slug>/heat/row/", heat_views.row, name="heat-row"),
    path("recipes/<slug:slug>/heat/told/", heat_views.fragment, name="heat-told"),
    path("recipes/<slug:slug>/change/", recipe_views.edit, name="edit-recipe"),
    path("recipes/<slug:slug>/retire/", recipe_views.retire, name="retire-recipe"),
    path("recipes/<slug:slug>/recipe.json", recipe_views.recipe_file, name="recipe-file"),
    path("recipes/<slug:slug>/versions/", recipe_views.versions, name="versions"),
    path("recipes/<slug:slug>/versions/<int:number>/", recipe_views.recipe, name="version"),
    path(
        "recipes/<slug:slug>/versions/<int:number>/restore/", recipe_views.restore, name="restore"
    ),
    path("recipes/<slug:slug>/", recipe_views.recipe, name="recipe"),
]
