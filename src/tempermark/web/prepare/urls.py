"""Jobs and clocks."""

from django.urls import path

from tempermark.web.prepare import card_views, clock_views, template_views, tool_views, views

app_name = "prepare"
urlpatterns = [
    path("jobs/", views.jobs, name="jobs"),
    path("jobs/<int:pk>/", views.job, name="job"),
    path("jobs/<int:pk>/lines/<slug:line>/", views.tick, name="tick"),
    path("jobs/<int:pk>/close/", views.close, name="close"),
    path("recipes/<slug:slug>/prepare/", views.new_job, name="new"),
    path("presses/<slug:slug>/cards/<slug:recipe>/", card_views.card, name="card"),
    path("presses/<slug:slug>/cards/<slug:recipe>.svg", card_views.code, name="card-code"),
    path("tools/", tool_views.tools, name="tools"),
    path("bleed/", tool_views.bleed_page, name="bleed"),
    path("straight/", tool_views.straight, name="straight"),
    path("mix/", tool_views.mix, name="mix"),
    path("sheets/", tool_views.sheets, name="sheets"),
    path("template/", template_views.page, name="template"),
    path("template/file.<slug:kind>", template_views.file, name="template-file"),
    path("clocks/", clock_views.clocks, name="clocks"),
    path("clocks/strip/", clock_views.strip, name="clock-strip"),
    path("clocks/start/", clock_views.start, name="clock-start"),
    path("clocks/<int:pk>/longer/", clock_views.lengthen, name="clock-longer"),
    path("clocks/<int:pk>/heard/", clock_views.hear, name="clock-heard"),
    path("clocks/<int:pk>/stop/", clock_views.stop, name="clock-stop"),
]
