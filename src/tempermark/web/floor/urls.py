"""The floor."""

from django.urls import path

from tempermark.web.floor import views

app_name = "floor"
urlpatterns = [
    path("", views.floor, name="floor"),
    path("presses/<slug:slug>/", views.press, name="press"),
    path("presses/<slug:slug>/setting/", views.use_setting, name="use-setting"),
]
