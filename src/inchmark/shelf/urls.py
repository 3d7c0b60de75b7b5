"""Addresses of the shelf."""

from django.urls import path

from inchmark.shelf import views

app_name = "shelf"
urlpatterns = [
    path("", views.rigs, name="rigs"),
    path("rigs/new/", views.rig_add, name="rig-add"),
    path("rigs/<int:rig_id>/", views.rig_edit, name="rig-edit"),
    path("rigs/<int:rig_id>/copy/", views.rig_copy, name="rig-copy"),
    path("rigs/<int:rig_id>/remove/", views.rig_remove, name="rig-remove"),
]
