"""Addresses a monitor asks, and the work done for a study."""

from django.urls import path

from inchmark.upkeep.views import monitors, work

app_name = "upkeep"
urlpatterns = [
    path("health/live", monitors.live, name="live"),
    path("health/ready", monitors.ready, name="ready"),
    path("metrics", monitors.metrics, name="metrics"),
    path("studies/<int:study_id>/work/", work.work, name="work"),
]
