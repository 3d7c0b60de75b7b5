"""Practice: planned within its minutes, walked blind, claimed, and only then shown."""

import pytest
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.urls import reverse
from django.utils import timezone

from inchmark.core.practice.scenarios import BY_KEY, LOOK_ALIKE
from inchmark.learn.models import Practice
from inchmark.learn.services.practice import (
    begin_practice,
    hidden_truth,
    minutes_left,
    show_truth_of,
    walk_blind,
    world_of,
)
from inchmark.learn.services.truths import shown_of
from inchmark.read.services import make_reading
from inchmark.studies.models import Study
from inchmark.walk.models import FrameFile
from inchmark.walk.services.boards import receive_from_boards
from inchmark.walk.services.ingest import import_frames
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def learner(client):
    """A browser signed in as somebody new."""
    user = make.user("learner")
    client.force_login(user)
    client.user = user
    return client


def begun(user, key="meadow", seed=8):
    return begin_practice(user, key, seed)


def out_and_back(practice, user, stops=None, frames=30):
    """Walk, take in what the boards printed, and read it."""
    labels = stops or [one.label for one in practice.study.stops.all()]
    walk = walk_blind(practice, labels, frames, user)
    file = walk.files.get()
    receive_from_boards(file.pk)
    import_frames(file.pk)
    make_reading(practice.study_id)
    practice.refresh_from_db()
    return walk


def test_a_site_is_set_up_with_rigs_and_places_and_nothing_of_its_truth_is_in_a_page(learner):
    response = learner.post(reverse("practice-begin"), {"scenario": "harbour", "seed": "44"})
    found = Practice.objects.get()
    assert response.url == reverse("practice-board", args=[found.study_id])
    study = found.study
    assert (study.kind, study.rigs.count(), study.stops.count()) == (Study.PRACTICE, 3, 9)
    page = make.html(learner.get(response.url))
    assert "40 of 40 minutes left" in page
    truth = hidden_truth(found)
    for hidden in (f"{truth.exponent:.2f}", "look-alike", "through a relay", "12 dB"):
        assert hidden not in page
    plan = make.html(learner.get(reverse("plan:stops", args=[study.pk])))
    assert "road" in plan


def test_a_number_draws_a_site_and_nonsense_is_refused_in_words(learner):
    learner.post(reverse("practice-begin"), {"scenario": "free", "seed": "4711"})
    assert Practice.objects.get().seed == 4711
    response = learner.post(reverse("practice-begin"), {"scenario": "free", "seed": "-3"})
    assert response.status_code == 422
    assert "greater than or equal to 1" in make.html(response)
    response = learner.post(reverse("practice-begin"), {"scenario": "moon"})
    assert response.status_code == 422


def test_the_walk_leads_through_the_hidden_world_and_its_truth_lies_beside_the_claim(learner):
    practice = begun(learner.user)
    out_and_back(practice, learner.user)
    page = reverse("practice-board", args=[practice.study_id])
    learner.post(reverse("practice-truth", args=[practice.study_id]))
    practice.refresh_from_db()
    assert practice.shown_at
    html = make.html(learner.get(page))
    assert "truths lie within the limits you claimed" in html
    assert "Nothing but the law of distance" in html
    found = shown_of(practice)
    truth = hidden_truth(practice)
    assert [one.what for one in found.rows[:2]] == ["range of A", "range of B"]
    exponent = next(one for one in found.rows if one.what == "path exponent")
    assert exponent.true == f"{truth.exponent:.2f}"
    low, high = practice.claim["exponent"][1:]
    assert exponent.inside == (low <= truth.exponent <= high)
    assert sum(bool(one.inside) for one in found.rows) >= len(found.rows) - 1


def test_traps_are_named_with_the_note_that_told_them(learner):
    practice = begun(learner.user, "estate", 21)
    out_and_back(practice, learner.user, frames=20)
    show_truth_of(practice)
    practice.refresh_from_db()
    (trap,) = shown_of(practice).traps
    assert "repeated frames of A" in trap.what
    assert trap.noticed
    assert "came through a relay” told it" in trap.told
    practice.claim["notes"] = []
    (trap,) = shown_of(practice).traps
    assert not trap.noticed
    assert trap.told.startswith("No note told it")


def test_a_road_distance_is_walked_where_the_stop_really_is(learner):
    practice = begun(learner.user, "lane", 5)
    signed = practice.study.stops.get(method="road")
    walk = walk_blind(practice, ["1", signed.label], 5, learner.user)
    metres = dict(world_of(walk).stops)[signed.label]
    assert signed.distance_m / metres == pytest.approx(1.35, abs=0.02)


def test_the_look_alike_stands_on_the_bench_page(learner):
    practice = begun(learner.user, "bench", 5)
    assert LOOK_ALIKE in BY_KEY["bench"].traps
    page = make.html(learner.get(reverse("shelf:close-ranges", args=[practice.study_id])))
    assert "L8-1" in page
    out_and_back(practice, learner.user, frames=10)
    show_truth_of(practice)
    practice.refresh_from_db()
    (trap,) = shown_of(practice).traps
    assert "look-alike" in trap.what


def test_minutes_are_used_up_and_a_walk_too_long_is_refused_with_both_figures(learner):
    practice = begun(learner.user)
    page = reverse("practice-walk", args=[practice.study_id])
    labels = [one.label for one in practice.study.stops.all()]
    response = learner.post(page, {"stops": labels, "frames": "200"})
    assert response.status_code == 422
    assert "minutes and 80 are left. Choose fewer stops or fewer frames." in make.html(response)
    assert not practice.study.walks.exists()
    assert not FrameFile.objects.exists()
    learner.post(page, {"stops": labels[:3], "frames": "20"})
    practice.refresh_from_db()
    used = practice.walked["1"]["minutes"]
    assert 5 < used < 10
    assert minutes_left(practice) == pytest.approx(80 - used)
    response = learner.post(page, {"stops": labels[:1], "frames": "20"})
    assert "two stops or more" in make.html(response)


def test_minutes_cannot_be_walked_past_by_another_button(learner):
    practice = begun(learner.user)
    walk = make.walk(practice.study)
    page = reverse("walk:boards-walk", args=[practice.study_id, walk.pk])
    html = make.html(learner.post(page, follow=True))
    assert "from its own page, where the minutes are counted" in html
    assert not FrameFile.objects.exists()
    assert not walk.stays.exists()


def test_no_truth_before_a_reading_and_no_walk_after_the_truth(learner):
    practice = begun(learner.user)
    page = reverse("practice-truth", args=[practice.study_id])
    response = learner.post(page, follow=True)
    assert "Nothing has been read yet that you could claim" in make.html(response)
    out_and_back(practice, learner.user, frames=10)
    show_truth_of(practice)
    with pytest.raises(ValidationError, match="has been shown"):
        walk_blind(practice, ["1", "2"], 5, learner.user)
    with pytest.raises(IntegrityError), transaction.atomic():
        Practice.objects.create(
            study=make.study(), scenario="meadow", seed=1, shown_at=timezone.now()
        )


def test_other_studies_walk_in_the_plans_world(walked):
    assert world_of(walked.walks.get()) is None
