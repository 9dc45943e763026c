"""Surveys."""

from django.urls import path

from tempermark.web.measure.comparisons import views as comparison_views
from tempermark.web.measure.instruments import views as instrument_views
from tempermark.web.measure.press import calibration_views
from tempermark.web.measure.surveys import views

app_name = "measure"
urlpatterns = [
    path("presses/<slug:slug>/surveys/new/", views.new_survey, name="new"),
    path("presses/<slug:slug>/surveys/import/", views.import_survey, name="import"),
    path("instruments/", instrument_views.all_instruments, name="instruments"),
    path("instruments/new/", instrument_views.edit, name="new-instrument"),
    path("instruments/<int:pk>/", instrument_views.edit, name="instrument"),
    path("instruments/<int:pk>/check/", instrument_views.check, name="check-instrument"),
    path("presses/<slug:slug>/calibration/", calibration_views.calibration, name="calibration"),
    path("presses/<slug:slug>/comparison/", comparison_views.new, name="compare"),
    path("comparisons/<int:pk>/", comparison_views.comparison, name="comparison"),
    path("comparisons/<int:pk>/withdraw/", comparison_views.withdraw, name="withdraw"),
    path("surveys/", views.surveys, name="list"),
    path("surveys/<int:pk>/", views.survey, name="survey"),
    path("surveys/<int:pk>/summary/", views.summary_fragment, name="summary"),
    path("surveys/<int:pk>/chart/", views.chart_fragment, name="chart"),
    path("surveys/<int:pk>/readings/", views.enter, name="enter"),
    path("surveys/<int:pk>/take-back/", views.take_back, name="take-back"),
    path("surveys/<int:pk>/finish/", views.finish, name="finish"),
    path("surveys/<int:pk>/reopen/", views.reopen, name="reopen"),
    path("surveys/<int:pk>/survey.json", views.export_json, name="json"),
    path("surveys/<int:pk>/survey.csv", views.export_csv, name="csv"),
]
