"""The study: its question and rules, the tape, and what is done with side notes."""

import pytest
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.urls import reverse

from inchmark.studies import services
from inchmark.studies.models import Study
from inchmark.studies.side_notes import SideNote, with_decisions
from tests import make

pytestmark = pytest.mark.django_db


def test_starting_a_study_makes_its_maker_the_owner(client):
    user = make.user()
    client.force_login(user)
    response = client.post(
        reverse("studies:study-add"),
        {"title": "Marsh", "question": "Which antenna?", "needed_m": "0.74 km", "region": "EU"},
    )
    study = Study.objects.get()
    assert response.url == reverse("shelf:rigs", args=[study.pk])
    assert study.needed_m == pytest.approx(740)
    assert make.owner(study) == user


@pytest.mark.parametrize(
    ("typed", "words"),
    [("0,74 km", "decimal comma"), ("-5 m", "from 1 to 1,000,000 m"), ("5 kg", "not a quantity")],
)
def test_a_distance_that_cannot_be_read_keeps_what_was_typed(client, typed, words):
    client.force_login(make.user())
    response = client.post(
        reverse("studies:study-add"), {"title": "Marsh", "needed_m": typed, "region": "EU"}
    )
    page = make.html(response)
    assert response.status_code == 422
    assert words in page
    assert typed in page
    assert 'role="alert"' in page
    assert Study.objects.count() == 0


def test_the_rules_of_a_range_can_be_changed(owner_client, study):
    owner_client.post(
        reverse("studies:study-edit", args=[study.pk]),
        {
            "title": "A study",
            "region": "US",
            "loss_share": "0.05",
            "places_share": "0.95",
            "in_hand_db": "12",
            "needed_direction": "exchange",
            "needed_receiver": "any",
            "own_noise": "on",
        },
    )
    study.refresh_from_db()
    assert (study.loss_share, study.places_share, study.in_hand_db) == (0.05, 0.95, 12)
    assert (study.needed_direction, study.needed_receiver, study.own_noise) == (
        "exchange",
        "any",
        True,
    )


@pytest.mark.parametrize("share", [0, 1.0, float("nan")])
def test_the_database_refuses_rules_outside_reason(study, share):
    with pytest.raises(IntegrityError), transaction.atomic():
        Study.objects.filter(pk=study.pk).update(places_share=share)


def test_a_change_raises_the_revision_and_tells_the_listeners(
    study, django_capture_on_commit_callbacks
):
    told = []
    services._listeners.append(told.append)
    try:
        before = Study.objects.get(pk=study.pk).revision
        with django_capture_on_commit_callbacks(execute=True):
            services.change_study(study, title="Another name")
    finally:
        services._listeners.remove(told.append)
    assert told == [study.pk]
    assert Study.objects.get(pk=study.pk).revision == before + 1


def note(code="few_frames", subject="A/1"):
    return SideNote(code=code, subject=subject, title="t", text="x", kind="caution")


def test_the_latest_decision_on_a_note_counts_and_open_notes_come_first(study):
    by = make.owner(study)
    for state, reason in (("set-aside", "a test walk"), ("open", ""), ("accepted", "")):
        services.decide_note(
            study, code="few_frames", subject="A/1", state=state, reason=reason, by=by
        )
    rows = with_decisions(study, [note(), note("no_edge", "B")])
    assert [(row.code, row.state) for row in rows] == [
        ("no_edge", "open"),
        ("few_frames", "accepted"),
    ]


def test_setting_a_note_aside_takes_a_reason(owner_client, study):
    page = reverse("studies:note-decide", args=[study.pk])
    data = {"code": "few_frames", "subject": "A/1", "state": "set-aside", "next": "/"}
    response = owner_client.post(page, data, follow=True)
    assert "Say why the note is set aside" in make.html(response)
    assert not study.note_decisions.exists()
    owner_client.post(page, data | {"reason": "a test walk"})
    assert study.note_decisions.get().reason == "a test walk"
    with pytest.raises(ValidationError):
        services.decide_note(
            study, code="x", subject="", state="set-aside", reason="", by=make.owner(study)
        )


def test_a_decision_sends_no_one_to_another_site(owner_client, study):
    response = owner_client.post(
        reverse("studies:note-decide", args=[study.pk]),
        {"code": "x", "state": "accepted", "next": "https://elsewhere.example/"},
    )
    assert response.url == study.get_absolute_url()


def test_what_was_typed_and_not_kept_is_not_drawn_on_the_tape(reader, walked):
    page = reverse("studies:study-edit", args=[walked.pk])
    before = make.html(reader.get(page))
    assert "needed 300" in before
    Study.objects.filter(pk=walked.pk).update(revision=walked.revision + 1)  # drawn anew next time
    typed = {"title": "", "question": "", "needed_m": "7 km"}
    refused = reader.post(page, typed)
    assert refused.status_code == 422
    assert "needed 7" not in make.html(refused)
    assert "needed 300" in make.html(reader.get(page))
