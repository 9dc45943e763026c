"""Sign-in and a person's own settings."""

from django.urls import path

from tempermark.web.accounts import views

app_name = "accounts"
urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("sign-out/", views.sign_out, name="sign-out"),
    path("sign-up/<str:token>/", views.sign_up_page, name="sign-up"),
    path("me/units/", views.units, name="units"),
]
