"""Addresses of the walk."""

from django.urls import path

from inchmark.walk import views

app_name = "walk"
urlpatterns = [
    path("", views.walks, name="walks"),
    path("new/", views.walk_add, name="walk-add"),
    path("<int:walk_id>/units/", views.units_name, name="units-name"),
    path("<int:walk_id>/", views.walk, name="walk"),
    path("<int:walk_id>/change/", views.walk_edit, name="walk-edit"),
    path("<int:walk_id>/log/", views.log_upload, name="log-upload"),
    path("<int:walk_id>/boards/", views.boards_walk, name="boards-walk"),
    path("<int:walk_id>/silent/", views.silent_visit, name="silent-visit"),
    path("files/<int:file_id>/bad-lines/", views.bad_lines, name="bad-lines"),
    path("files/<int:file_id>/again/", views.file_again, name="file-again"),
    path("files/<int:file_id>/original/", views.file_original, name="file-original"),
]
