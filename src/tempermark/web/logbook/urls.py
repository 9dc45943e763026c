"""The logbook."""

from django.urls import path

from tempermark.web.logbook import off_views, piece_views, views

app_name = "logbook"
urlpatterns = [
    path("logbook/", views.logbook, name="logbook"),
    path("logbook/compare/", views.compare, name="compare"),
    path("logbook/yield/", views.yields, name="yield"),
    path("logbook/logbook.<slug:kind>", views.export, name="export"),
    path("logbook/while-off/", off_views.while_off, name="while-off"),
    path("logbook/while-off/pieces.<slug:kind>", off_views.export, name="while-off-export"),
    path("surveys/<int:pk>/pieces/", off_views.of_survey, name="of-survey"),
    path("instruments/<int:pk>/pieces/", off_views.of_instrument, name="of-instrument"),
    path("piece/", piece_views.find, name="find"),
    path("piece/<slug:code>/", piece_views.piece, name="piece"),
    path("piece/<slug:code>/code.svg", piece_views.code, name="piece-code"),
    path("piece/<slug:code>/photos/", piece_views.add_photo, name="add-photo"),
    path("piece-photos/<int:pk>/<slug:size>.jpg", piece_views.photo, name="photo"),
    path("piece-photos/<int:pk>/withdraw/", piece_views.withdraw_photo, name="withdraw-photo"),
]
