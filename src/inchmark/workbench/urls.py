"""Addresses of the workbench; its questions ask for no account and touch no database."""

from django.urls import path

from inchmark.workbench import views

app_name = "workbench"
urlpatterns = [
    path("", views.workbench, name="workbench"),
    path("begin/", views.begin, name="begin"),
    path("<slug:question>/", views.answer, name="answer"),
]
