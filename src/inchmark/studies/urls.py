"""Addresses of studies."""

from django.urls import path

from inchmark.studies import views

app_name = "studies"
urlpatterns = [
    path("", views.study_list, name="list"),
    path("studies/new/", views.study_add, name="study-add"),
    path("studies/<int:study_id>/question/", views.study_edit, name="study-edit"),
    path("studies/<int:study_id>/notes/", views.note_decide, name="note-decide"),
]
