"""Heat, windows, lessons, and a recipe's card."""

from django.urls import path

from tempermark.web.heat.lessons import views as lesson_views
from tempermark.web.heat.recipe import page as recipe_page
from tempermark.web.heat.simulate import views as heat_views
from tempermark.web.heat.windows import views as window_views

app_name = "heat"
urlpatterns = [
    path("windows/", window_views.page, name="windows"),
    path("windows/summary/", window_views.fragment, name="windows-summary"),
    path("lessons/", lesson_views.page, name="lessons"),
    path("lessons/traces/new/", lesson_views.new_trace, name="new-trace"),
    path("lessons/traces/<int:pk>/turn/", lesson_views.drop_trace, name="turn-trace"),
    path("lessons/<slug:subject>/accept/", lesson_views.accept, name="accept-lesson"),
    path("lessons/<slug:subject>/ask/", lesson_views.ask, name="ask-lesson"),
    path("lessons/<slug:subject>/decline/", lesson_views.decline, name="decline-lesson"),
    path("lessons/<slug:subject>/revert/", lesson_views.revert, name="revert-lesson"),
    path("recipes/<slug:slug>/heat/", heat_views.page, name="heat"),
    path("recipes/<slug:slug>/heat/platen/", heat_views.platen, name="heat-platen"),
    path("recipes/<slug:slug>/heat/uncertainty/", heat_views.uncertainty, name="heat-uncertainty"),
    path("recipes/<slug:slug>/heat/row/", heat_views.row, name="heat-row"),
    path("recipes/<slug:slug>/heat/summary/", heat_views.fragment, name="heat-summary"),
    path("recipes/<slug:slug>/versions/<int:number>/", recipe_page.recipe, name="version"),
    path("recipes/<slug:slug>/", recipe_page.recipe, name="recipe"),
]
