"""Addresses of deciding."""

from django.urls import path

from inchmark.decide import views

urlpatterns = [
    path("", views.decide, name="decide"),
    path("rigs/<int:rig_id>/keep/", views.keep_what_if, name="keep-what-if"),
    path("rigs/<int:rig_id>/items/", views.item_set, name="item-set"),
    path("items/<int:item_id>/drop/", views.item_drop, name="item-drop"),
]
