"""Addresses of reading."""

from django.urls import path

from inchmark.read import views

urlpatterns = [
    path("", views.reading, name="reading"),
    path("again/", views.again, name="again"),
    path("surrounding/", views.keep_surrounding, name="keep-surrounding"),
    path("visits/<int:visit_id>/", views.visit, name="visit"),
    # everything out again
    path("export/frames.csv", views.export_frames, name="export-frames"),
    path("export/stops.csv", views.export_stops, name="export-stops"),
    path("export/visits.csv", views.export_visits, name="export-visits"),
    path("export/reading.json", views.export_reading, name="export-reading"),
]
