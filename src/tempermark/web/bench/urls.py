"""Run mode."""

from django.urls import path

from tempermark.web.bench import photo_views, views

app_name = "bench"
urlpatterns = [
    path("runs/", views.bench, name="bench"),
    path("runs/worker.js", views.worker, name="worker"),
    path("runs/together/", views.together, name="together"),
    path("runs/<int:pk>/", views.run, name="run"),
    path("runs/<int:pk>/entries/", views.entries, name="entries"),
    path("runs/<int:pk>/platen/", views.platen, name="platen"),
    path("runs/<int:pk>/photos/", photo_views.add, name="add-photo"),
    path("runs/<int:pk>/again/", views.again, name="again"),
    path("runs/<int:pk>/resume/", views.resume, name="resume"),
    path("runs/<int:pk>/labels/", photo_views.labels, name="labels"),
    path("jobs/<int:pk>/run/", views.start_job, name="start-job"),
    path("recipes/<slug:slug>/run/", views.start_recipe, name="start-recipe"),
    path("presses/<slug:slug>/run/", views.at_press, name="at-press"),
]
