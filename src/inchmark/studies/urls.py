"""Addresses of studies."""

from django.urls import path

from inchmark.studies.views import people, studies

urlpatterns = [
    path("", studies.study_list, name="list"),
    path("studies/new/", studies.study_add, name="study-add"),
    path("joining/<str:secret>/", people.join, name="join"),
    # one study
    path("studies/<int:study_id>/question/", studies.study_edit, name="study-edit"),
    path("studies/<int:study_id>/notes/", studies.note_decide, name="note-decide"),
    path(
        "studies/<int:study_id>/removed/<int:removed_id>/put-back/",
        studies.put_back,
        name="put-back",
    ),
    path("studies/<int:study_id>/changes/", people.changes, name="changes"),
    path("studies/<int:study_id>/leave/", people.leave, name="leave"),
    path("studies/<int:study_id>/keeping/", people.keeping, name="keeping"),
    path("studies/<int:study_id>/end/", people.end, name="end"),
    # its people
    path("studies/<int:study_id>/people/", people.people, name="people"),
    path(
        "studies/<int:study_id>/people/links/<int:invitation_id>/take-back/",
        people.invitation_take_back,
        name="invitation-take-back",
    ),
    path(
        "studies/<int:study_id>/people/<int:user_id>/role/",
        people.member_change,
        name="member-change",
    ),
    path(
        "studies/<int:study_id>/people/<int:user_id>/remove/",
        people.member_remove,
        name="member-remove",
    ),
    path(
        "studies/<int:study_id>/people/<int:user_id>/hand-over/",
        people.hand_over,
        name="hand-over",
    ),
]
