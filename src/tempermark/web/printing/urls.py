"""Art and print settings."""

from django.urls import path

from tempermark.web.printing import art_views, settings_views

app_name = "printing"
urlpatterns = [
    path("art/", art_views.arts, name="arts"),
    path("art/<int:pk>/", art_views.art, name="art"),
    path("art/<int:pk>/preview.png", art_views.preview, name="preview"),
    path("art/<int:pk>/retire/", art_views.retire, name="retire-art"),
    path("print-settings/", settings_views.all_settings, name="settings"),
    path("print-settings/new/", settings_views.edit, name="settings-new"),
    path("print-settings/<int:pk>/", settings_views.one, name="settings-one"),
    path("print-settings/<int:pk>/change/", settings_views.edit, name="settings-change"),
    path("print-settings/<int:pk>/retire/", settings_views.retire, name="settings-retire"),
]
