"""Jobs and clocks."""

from django.urls import path

from tempermark.web.prepare.clocks import views as clock_views
from tempermark.web.prepare.jobs import art_views, card_views, cost_views, views
from tempermark.web.prepare.tools import (
    change_views,
    coat_views,
    guide_views,
    heat_views,
    sheet_views,
    template_views,
)
from tempermark.web.prepare.tools import views as tool_views

app_name = "prepare"
urlpatterns = [
    path("jobs/", views.jobs, name="jobs"),
    path("jobs/<int:pk>/", views.job, name="job"),
    path("jobs/compare/", views.compare, name="compare"),
    path("jobs/<int:pk>/print-settings/", views.print_settings, name="print-settings"),
    path("jobs/<int:pk>/cost/", cost_views.cost, name="cost"),
    path("jobs/<int:pk>/art/", art_views.art, name="art"),
    path("jobs/<int:pk>/art/print.pdf", art_views.printed, name="art-printed"),
    path("jobs/<int:pk>/lines/<slug:line>/", views.tick, name="tick"),
    path("jobs/<int:pk>/close/", views.close, name="close"),
    path("recipes/<slug:slug>/prepare/", views.new_job, name="new"),
    path("presses/<slug:slug>/cards/<slug:recipe>/", card_views.card, name="card"),
    path("presses/<slug:slug>/cards/<slug:recipe>.svg", card_views.code, name="card-code"),
    path("tools/", tool_views.tools, name="tools"),
    path("bleed/", tool_views.bleed_page, name="bleed"),
    path("cooling/", heat_views.cooling, name="cooling"),
    path("hover/", heat_views.hover, name="hover"),
    path("spray/", coat_views.spray, name="spray"),
    path("brush/", coat_views.brush, name="brush"),
    path("presses/<slug:slug>/change-setting/", change_views.change, name="change"),
    path("setting-changes/<int:pk>/end/", change_views.end, name="change-end"),
    path("placing/", guide_views.guides, name="guides"),
    path("placing/new/", guide_views.edit_guide, name="guide-new"),
    path("placing/<int:pk>/", guide_views.guide, name="guide"),
    path("placing/<int:pk>/change/", guide_views.edit_guide, name="guide-change"),
    path("placing/<int:pk>/retire/", guide_views.retire_guide, name="guide-retire"),
    path("placing/<int:pk>/ruler.pdf", guide_views.ruler, name="ruler"),
    path("jobs/<int:pk>/guide/", guide_views.choose_guide, name="choose-guide"),
    path("presses/<slug:slug>/overlay/", guide_views.overlay, name="overlay"),
    path("change-setting/", tool_views.pick_press, {"target": "change"}, name="pick-change"),
    path("overlay/", tool_views.pick_press, {"target": "overlay"}, name="pick-overlay"),
    path("straight/", tool_views.straight, name="straight"),
    path("mix/", tool_views.mix, name="mix"),
    path("sheets/", sheet_views.sheets, name="sheets"),
    path("sheets/print.pdf", sheet_views.printed, name="sheets-printed"),
    path("template/", template_views.page, name="template"),
    path("template/file.<slug:kind>", template_views.file, name="template-file"),
    path("clocks/", clock_views.clocks, name="clocks"),
    path("clocks/strip/", clock_views.strip, name="clock-strip"),
    path("clocks/start/", clock_views.start, name="clock-start"),
    path("clocks/<int:pk>/longer/", clock_views.lengthen, name="clock-longer"),
    path("clocks/<int:pk>/heard/", clock_views.hear, name="clock-heard"),
    path("clocks/<int:pk>/stop/", clock_views.stop, name="clock-stop"),
]
