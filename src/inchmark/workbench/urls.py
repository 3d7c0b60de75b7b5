"""Addresses of the workbench; they ask for no account and touch no database."""

from django.urls import path

from inchmark.workbench import views

app_name = "workbench"
urlpatterns = [
    path("", views.workbench, name="workbench"),
    path("<slug:question>/", views.answer, name="answer"),
]
