"""Experiments, leaflets and wash trials."""

from django.urls import path

from tempermark.web.experiments.ladders import leaflet_views, planning_views, views
from tempermark.web.experiments.washing import views as wash_views

app_name = "experiments"
urlpatterns = [
    path("experiments/", views.experiments, name="experiments"),
    path("recipes/<slug:slug>/experiments/<slug:kind>/", planning_views.new, name="new"),
    path("experiments/<int:pk>/", views.sheet, name="sheet"),
    path("experiments/<int:pk>/propose/", views.propose, name="propose"),
    path("experiments/<int:pk>/choose/", views.choose, name="choose"),
    path("experiments/<int:pk>/withdraw-setting/", views.withdraw_setting, name="withdraw-setting"),
    path("experiments/<int:pk>/end/", views.end, name="end"),
    path("experiments/<int:pk>/labels/", views.labels, name="labels"),
    path("planned-presses/<int:pk>/pressed/", views.log_pressed, name="pressed"),
    path("planned-presses/<int:pk>/run/", views.start_run, name="run"),
    path("planned-presses/<int:pk>/score/", views.score, name="score"),
    path("planned-presses/<int:pk>/skip/", views.skip, name="skip"),
    path("leaflet/", leaflet_views.leaflet, name="leaflet"),
    path("wash-trials/", wash_views.trials, name="wash-trials"),
    path("wash-trials/new/", wash_views.new, name="new-wash-trial"),
    path("wash-trials/<int:pk>/", wash_views.trial, name="wash-trial"),
    path("wash-trials/<int:pk>/score/", wash_views.score, name="wash-score"),
    path("wash-trials/<int:pk>/end/", wash_views.end, name="wash-end"),
]
