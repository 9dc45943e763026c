"""The floor."""

from django.urls import path

from tempermark.web.floor import photos, register_views, views

app_name = "floor"
urlpatterns = [
    path("", views.floor, name="floor"),
    path("due.ics", views.due_calendar, name="due-calendar"),
    path("due/new-address/", views.make_new_feed, name="new-feed"),
    path("due/<str:token>.ics", views.feed_of, name="feed"),
    path("presses/new/", register_views.new_press, name="new-press"),
    path("presses/labels/", register_views.labels, name="labels"),
    path("presses/<slug:slug>/photographs/", photos.photos, name="photos"),
    path("photographs/<int:pk>/<slug:size>.jpg", photos.photo, name="photo"),
    path("photographs/<int:pk>/change/", photos.change_photo, name="change-photo"),
    path("presses/<slug:slug>/place/", views.place_sentence, name="place"),
    path("presses/<slug:slug>/label.svg", register_views.label_code, name="label-code"),
    path("presses/<slug:slug>/change/", register_views.change_press, name="change"),
    path("presses/<slug:slug>/elements/", register_views.elements, name="elements"),
    path("presses/<slug:slug>/elements/refit/", register_views.refit, name="refit"),
    path("presses/<slug:slug>/events/", register_views.event, name="event"),
    path("presses/<slug:slug>/", views.press, name="press"),
    path("presses/<slug:slug>/setting/", views.use_setting, name="use-setting"),
]
