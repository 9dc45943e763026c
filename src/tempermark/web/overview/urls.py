"""The floor page, a press's page, files and the calendar."""

from django.urls import path

from tempermark.web.overview import backup_views, file_views, first_views, views

app_name = "overview"
urlpatterns = [
    path("", views.floor, name="floor"),
    path("first-recipe/", first_views.first_recipe, name="first-recipe"),
    path("due.ics", views.due_calendar, name="due-calendar"),
    path("due/new-address/", views.make_new_feed, name="new-feed"),
    path("due/<str:token>.ics", views.feed_of, name="feed"),
    path("presses/<slug:slug>/place/", views.place_sentence, name="place"),
    path("presses/<slug:slug>/", views.press, name="press"),
    path("presses/<slug:slug>/setting/", views.use_setting, name="use-setting"),
    path("backups/", backup_views.backups, name="backups"),
    path("files/", file_views.files, name="files"),
    path("files/room.zip", file_views.whole_room, name="room-archive"),
    path("files/surveys/", file_views.import_surveys, name="import-many"),
    path("files/table/", file_views.import_table, name="import-table"),
    path("files/surveys.zip", file_views.surveys_archive, name="archive"),
    path("files/<slug:name>.<slug:kind>", file_views.table, name="table"),
]
