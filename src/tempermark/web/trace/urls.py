"""Fault cases."""

from django.urls import path

from tempermark.web.trace import views

app_name = "trace"
urlpatterns = [
    path("cases/", views.cases, name="cases"),
    path("test-presses/<int:pk>/trace/", views.open_case, name="open"),
    path("cases/<int:pk>/", views.case, name="case"),
    path("cases/<int:pk>/answer/", views.answer, name="answer"),
    path("cases/<int:pk>/check/", views.check, name="check"),
    path("cases/<int:pk>/check/take-back/", views.take_check_back, name="take-check-back"),
    path("cases/<int:pk>/close/", views.close, name="close"),
    path("cases/<int:pk>/reopen/", views.reopen, name="reopen"),
]
