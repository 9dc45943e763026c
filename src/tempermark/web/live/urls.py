"""Live readings. `/live/stream/` is answered in front of Django (see stream.py)."""

from django.urls import path

from tempermark.web.live.page import views

app_name = "live"
urlpatterns = [
    path("presses/<slug:slug>/live/", views.live, name="live"),
    path("presses/<slug:slug>/live/events/", views.events, name="events"),
    path("presses/<slug:slug>/live/key/", views.make_key, name="make-key"),
    path("presses/<slug:slug>/live/key/end/", views.end_key, name="end-key"),
    path("presses/<slug:slug>/live/keep/", views.keep, name="keep"),
    path("recordings/<int:pk>.csv", views.recording_file, {"kind": "csv"}, name="csv"),
    path("recordings/<int:pk>.ndjson", views.recording_file, {"kind": "ndjson"}, name="ndjson"),
]
