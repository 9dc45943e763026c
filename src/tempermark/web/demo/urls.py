"""The practice room."""

from django.urls import path

from tempermark.web.demo import views

app_name = "demo"
urlpatterns = [
    path("practice/", views.page, name="practice"),
    path("practice/state/", views.state, name="practice-state"),
    path("practice/start/", views.start, name="practice-start"),
    path("practice/discard/", views.discard, name="practice-discard"),
]
