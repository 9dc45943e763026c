"""Pressure and fit."""

from django.urls import path

from tempermark.web.pressure.maps import combined_views as map_combined_views
from tempermark.web.pressure.maps import views as map_views
from tempermark.web.pressure.pieces import blank_views
from tempermark.web.pressure.pieces import vessel_views as piece_vessel_views
from tempermark.web.pressure.pieces import views as piece_views
from tempermark.web.pressure.setting import learning_views as setting_learning_views
from tempermark.web.pressure.setting import views as setting_views

app_name = "pressure"
urlpatterns = [
    path("blanks/new/", blank_views.blank, name="new-blank"),
    path("blanks/<int:pk>/", blank_views.blank, name="blank"),
    path("presses/<slug:slug>/pressure/", setting_views.pressure, name="pressure"),
    path("presses/<slug:slug>/pressure/summary/", setting_views.summary_fragment, name="summary"),
    path("presses/<slug:slug>/pressure/set/", setting_views.set_pressure, name="set"),
    path("presses/<slug:slug>/pressure/take-back/", setting_views.take_back, name="take-back"),
    path("presses/<slug:slug>/pressure/learn/", setting_learning_views.learn, name="learn"),
    path(
        "presses/<slug:slug>/pressure/readings/",
        setting_learning_views.add_reading,
        name="add-reading",
    ),
    path("presses/<slug:slug>/pressure/lean/", setting_learning_views.lean, name="lean"),
    path("leans/<int:pk>/withdraw/", setting_learning_views.withdraw_lean, name="withdraw-lean"),
    path("presses/<slug:slug>/pressure/wear/", setting_learning_views.wear, name="wear"),
    path(
        "presses/<slug:slug>/pressure/combined-map/",
        map_combined_views.combined_map,
        name="combined-map",
    ),
    path("presses/<slug:slug>/pressure/strips/", map_views.new_pulls, name="new-pulls"),
    path("presses/<slug:slug>/pressure/strips/file/", map_views.import_pulls, name="import-pulls"),
    path(
        "presses/<slug:slug>/pressure/made-up-print.png",
        map_views.sample_print,
        name="sample-print",
    ),
    path("presses/<slug:slug>/pressure/print/", map_views.new_print, name="new-print"),
    path(
        "knob-lessons/<int:pk>/withdraw/",
        setting_learning_views.withdraw_lesson,
        name="withdraw-lesson",
    ),
    path(
        "contact-readings/<int:pk>/withdraw/",
        setting_learning_views.withdraw_reading,
        name="withdraw-reading",
    ),
    path("pressure-maps/<int:pk>/", map_views.survey, name="survey"),
    path("pressure-maps/<int:pk>/strips/", map_views.enter, name="enter"),
    path("pressure-maps/<int:pk>/take-back/", map_views.take_back, name="take-back-pull"),
    path("pressure-maps/<int:pk>/finish/", map_views.finish, name="finish"),
    path("pressure-maps/<int:pk>/reopen/", map_views.reopen, name="reopen"),
    path("pressure-maps/<int:pk>/print.jpg", map_views.picture, name="picture"),
    path("pressure-maps/<int:pk>/map.json", map_views.export_json, name="json"),
    path("pressure-maps/<int:pk>/map.csv", map_views.export_csv, name="csv"),
    path("pieces/", piece_views.pieces, name="pieces"),
    path("pieces/<int:pk>/", piece_views.piece, name="piece"),
    path("pieces/<int:pk>/summary/", piece_views.piece_fragment, name="piece-summary"),
    path("pieces/raised/<int:pk>/remove/", piece_views.remove_raised, name="remove-raised"),
    path("vessels/", piece_vessel_views.vessel, name="vessel"),
    path("vessels/<int:pk>/", piece_vessel_views.vessel, name="vessel-of"),
    path("caps/", piece_vessel_views.cap, name="cap"),
    path("caps/<int:pk>/", piece_vessel_views.cap, name="cap-of"),
]
