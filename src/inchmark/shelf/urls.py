"""Addresses of the shelf."""

from django.urls import path

from inchmark.shelf import views

app_name = "shelf"
urlpatterns = [
    path("", views.rigs, name="rigs"),
    path("ladders/", views.ladders, name="ladders"),
    path("ladders/<int:check_id>/use/", views.ladder_use, name="ladder-use"),
    path("sweeps/", views.sweeps_page, name="sweeps"),
    path("sweeps/new/", views.sweep_add, name="sweep-add"),
    path("sweeps/<int:sweep_id>/", views.sweep_page, name="sweep"),
    path("sweeps/<int:sweep_id>/file/", views.sweep_file, name="sweep-file"),
    path("sweeps/<int:sweep_id>/remove/", views.sweep_remove, name="sweep-remove"),
    path("rigs/new/", views.rig_add, name="rig-add"),
    path("rigs/<int:rig_id>/", views.rig_edit, name="rig-edit"),
    path("rigs/<int:rig_id>/copy/", views.rig_copy, name="rig-copy"),
    path("rigs/<int:rig_id>/remove/", views.rig_remove, name="rig-remove"),
]
