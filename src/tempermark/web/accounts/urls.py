"""Sign-in and a person's own settings."""

from django.urls import path

from tempermark.web.accounts import views
from tempermark.web.accounts.audit import views as audit_views
from tempermark.web.accounts.matrix import views as matrix_views
from tempermark.web.accounts.people import views as people_views
from tempermark.web.accounts.pins import views as pin_views

app_name = "accounts"
urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("sign-out/", views.sign_out, name="sign-out"),
    path("sign-up/<str:token>/", views.sign_up_page, name="sign-up"),
    path("people/", people_views.people, name="people"),
    path("people/<int:pk>/role/", people_views.set_role, name="set-role"),
    path("people/<int:pk>/active/", people_views.set_active, name="set-active"),
    path("people/<int:pk>/reset/", people_views.reset, name="reset"),
    path("sign-up-links/<int:pk>/withdraw/", people_views.withdraw, name="withdraw-link"),
    path("me/", people_views.me, name="me"),
    path("me/sessions/", people_views.end, name="end-sessions"),
    path("me/pin/", pin_views.pin, name="pin"),
    path("me/pin/remove/", pin_views.remove_pin, name="remove-pin"),
    path("hands/", pin_views.hands, name="hands"),
    path("shared-tablets/", pin_views.shared_tablets, name="shared-tablets"),
    path("shared-tablets/<int:pk>/end/", pin_views.end_tablet, name="end-tablet"),
    path("audit/", audit_views.audit, name="audit"),
    path("audit.<slug:kind>", audit_views.export, name="audit-file"),
    path("history/<str:about>/", audit_views.history, name="history"),
    path("permissions/", matrix_views.permissions, name="permissions"),
    path("me/units/", views.units, name="units"),
]
