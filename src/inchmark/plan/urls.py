"""Addresses of the plan."""

from django.urls import path

from inchmark.plan import views

app_name = "plan"
urlpatterns = [
    path("", views.stops, name="stops"),
    path("fixed-end/", views.site_edit, name="site-edit"),
    path("stops/new/", views.stop_add, name="stop-add"),
    path("stops/file/", views.stops_file, name="stops-file"),
    path("stops/<int:stop_id>/", views.stop_edit, name="stop-edit"),
    path("stops/<int:stop_id>/remove/", views.stop_remove, name="stop-remove"),
]
