"""Addresses of deciding."""

from django.urls import path

from inchmark.decide import views

app_name = "decide"
urlpatterns = [path("", views.decide, name="decide")]
