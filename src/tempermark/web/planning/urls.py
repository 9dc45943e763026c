"""Orders and plans."""

from django.urls import path

from tempermark.web.planning import order_views, views

app_name = "planning"
urlpatterns = [
    path("plans/", views.plans, name="plans"),
    path("plans/<int:pk>/", views.plan, name="plan"),
    path("plans/<int:pk>/progress/", views.progress, name="progress"),
    path("plans/<int:pk>/enough/", views.enough, name="enough"),
    path("plans/<int:pk>/in-force/", views.in_force, name="in-force"),
    path("orders/", order_views.orders, name="orders"),
    path("orders/new/", order_views.new_order, name="new-order"),
    path("orders/<int:pk>/", order_views.order, name="order"),
    path("orders/<int:pk>/change/", order_views.change_order, name="change-order"),
    path("orders/<int:pk>/close/", order_views.close_order, name="close-order"),
]
