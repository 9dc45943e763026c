"""The register."""

from django.urls import path

from tempermark.web.presses import photos, register_views

app_name = "presses"
urlpatterns = [
    path("presses/new/", register_views.new_press, name="new-press"),
    path("presses/labels/", register_views.labels, name="labels"),
    path("presses/<slug:slug>/photographs/", photos.photos, name="photos"),
    path("photographs/<int:pk>/<slug:size>.jpg", photos.photo, name="photo"),
    path("photographs/<int:pk>/change/", photos.change_photo, name="change-photo"),
    path("presses/<slug:slug>/label.svg", register_views.label_code, name="label-code"),
    path("presses/<slug:slug>/change/", register_views.change_press, name="change"),
    path("presses/<slug:slug>/elements/", register_views.elements, name="elements"),
    path("presses/<slug:slug>/elements/refit/", register_views.refit, name="refit"),
    path("presses/<slug:slug>/events/", register_views.event, name="event"),
]
