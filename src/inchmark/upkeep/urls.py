"""Addresses a monitor asks."""

from django.urls import path

from inchmark.upkeep import views

app_name = "upkeep"
urlpatterns = [
    path("health/live", views.live, name="live"),
    path("health/ready", views.ready, name="ready"),
    path("metrics", views.metrics, name="metrics"),
]
