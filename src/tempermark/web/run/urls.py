"""Test presses."""

from django.urls import path
from django.views.generic import RedirectView

from tempermark.web.run.lots import views as lot_views
from tempermark.web.run.pieces import views

app_name = "run"
urlpatterns = [
    path(
        "test-presses/",
        RedirectView.as_view(pattern_name="logbook:logbook", query_string=True),
        name="list",
    ),
    path("presses/<slug:slug>/test-presses/new/", views.new_test_press, name="new"),
    path("presses/<slug:slug>/under-the-art/", views.art_sentence, name="under-the-art"),
    path("lots/", lot_views.overview, name="lots"),
    path("lots/<int:pk>/retire/", lot_views.retire, name="retire-lot"),
    path("lots/<int:pk>/wear/", lot_views.wear, name="wear"),
    path("lots/<int:pk>/label/", lot_views.label, name="lot-label"),
    path("lots/<int:pk>/label.svg", lot_views.label_code, name="lot-code"),
    path("test-presses/<int:pk>/", views.test_press, name="test-press"),
    path("test-presses/<int:pk>/marks/", views.add_mark, name="mark"),
]
