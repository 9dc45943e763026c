"""Orders and plans."""

from django.urls import path

from tempermark.web.planning import views
from tempermark.web.planning.hours import views as hours_views
from tempermark.web.planning.orders import import_views
from tempermark.web.planning.orders import views as order_views
from tempermark.web.planning.plans import run_views
from tempermark.web.planning.stock import views as stock_views

app_name = "planning"
urlpatterns = [
    path("plans/", views.plans, name="plans"),
    path("plans/again/", views.again, name="again"),
    path("plans/wall/", views.wall, name="wall"),
    path("plans/hours/", hours_views.hours, name="hours"),
    path("plans/hours/<int:pk>/remove/", hours_views.remove_hours, name="remove-hours"),
    path("plans/rules/", hours_views.change_rules, name="change-rules"),
    path("plans/next/<slug:slug>/", views.next_here, name="next-here"),
    path("plans/<int:pk>/", views.plan, name="plan"),
    path("plans/<int:pk>/progress/", views.progress, name="progress"),
    path("plans/<int:pk>/plan.<str:kind>", views.export, name="export"),
    path("plans/<int:pk>/enough/", views.enough, name="enough"),
    path("plans/<int:pk>/search-again/", views.search_again, name="search-again"),
    path("plans/<int:pk>/in-force/", views.in_force, name="in-force"),
    path("plans/<int:pk>/runs/<str:stage>/", run_views.planned_run, name="planned-run"),
    path("stock/", stock_views.blank_stock, name="stock"),
    path("orders/", order_views.orders, name="orders"),
    path("orders/new/", order_views.new_order, name="new-order"),
    path("orders/import/", import_views.import_orders, name="import-orders"),
    path("order-files/<int:pk>/", import_views.order_file, name="order-file"),
    path("orders/<int:pk>/", order_views.order, name="order"),
    path("orders/<int:pk>/change/", order_views.change_order, name="change-order"),
    path("orders/<int:pk>/close/", order_views.close_order, name="close-order"),
]
