"""Budgets at the needed distance, and ranges under each rule."""

import pytest
from django.urls import reverse

from inchmark.core.link_model.data import RigPrior
from inchmark.decide.records.budgets import REFERENCE_DISTANCE_M, budgets
from inchmark.plan.models import Site
from inchmark.plan.services import place_fixed_end
from inchmark.read.models import StudyReading
from inchmark.read.services import make_reading
from tests import make

pytestmark = pytest.mark.django_db


def test_a_ladder_adds_up_to_what_arrives(walked):
    for one in budgets(walked, walked.readings.get()):
        for ladder in one.ladders:
            assert sum(rung.db for rung in ladder.rungs) == pytest.approx(ladder.arriving_dbm)
            assert ladder.in_hand_db == pytest.approx(ladder.arriving_dbm - ladder.threshold_dbm)


def test_the_walked_level_is_what_the_ladder_ends_at(walked):
    reading = walked.readings.get()
    one = budgets(walked, reading)[0]
    level = reading.data["rigs"]["A"]["needed"]["level_dbm"]["estimate"]
    assert one.measured
    assert one.ladders[0].arriving_dbm == pytest.approx(level)


def test_the_two_directions_differ_by_what_the_ends_differ_by(walked):
    rig = walked.rigs.get(letter="A")
    rig.fixed_power_dbm = rig.power_dbm + 6
    rig.save()
    one = budgets(walked, walked.readings.get())[0]
    assert one.ladders[1].in_hand_db - one.ladders[0].in_hand_db == pytest.approx(6)


def test_small_items_stay_readable_beside_a_path_of_a_hundred_decibels(walked):
    rig = walked.rigs.get(letter="A")
    rig.feed_loss_db = 0.5
    rig.save()
    ladder = budgets(walked, walked.readings.get())[0].ladders[0]
    by_name = {(rung.place, rung.name): rung for rung in ladder.rungs}
    feed, path = by_name["sender", "Feed and connectors"], by_name["path", "Path"]
    assert path.broken
    assert not feed.broken
    assert feed.width >= 0.45  # per cent of some 500 px: more than 2 px
    assert all(rung.x >= 0 and rung.x + rung.width <= 100 for rung in ladder.rungs)


def test_without_a_walk_the_budget_is_predicted_and_says_so(client, study):
    client.force_login(make.owner(study))
    html = client.get(reverse("decide:decide", args=[study.pk])).content.decode()
    assert "Predicted: nothing has been walked" in html
    assert "No needed distance is set" in html
    assert "not walked yet" in html
    assert "500 m, exponent 3.1, predicted" in html
    assert "as the plan has it" in html
    place_fixed_end(study, Site(model="free_space", shadowing_db=4.0))
    html = client.get(reverse("decide:decide", args=[study.pk])).content.decode()
    assert "500 m, free space, predicted" in html
    assert "spread between places 4 dB" in html


def test_an_empty_study_says_where_to_begin(client):
    study = make.study()
    client.force_login(make.owner(study))
    html = client.get(reverse("decide:decide", args=[study.pk])).content.decode()
    assert "No rig on the shelf yet" in html
    assert "To the shelf" in html


def test_the_page_shows_every_rule_side_by_side(reader, walked):
    html = reader.get(reverse("decide:decide", args=[walked.pk])).content.decode()
    for words in ("last heard", "stops in a row", "shown", "loss rule", "in hand", "at 300 m"):
        assert words in html
    assert "Twice the range takes" in html
    assert "licensed people decide" in html


def test_the_rig_asked_for_is_the_one_shown(reader, walked):
    page = reverse("decide:decide", args=[walked.pk])
    html = reader.get(page, {"rig": "A"}).content.decode()
    assert 'aria-current="true">A ' in html


def test_the_page_costs_a_fixed_number_of_queries(
    reader,
    walked,
    django_assert_max_num_queries,
):
    with django_assert_max_num_queries(13):
        reader.get(reverse("decide:decide", args=[walked.pk]))


def test_a_reading_without_a_needed_distance_falls_back_on_the_law(walked):
    walked.needed_m = None
    walked.save()
    make_reading(walked.pk)
    one = budgets(walked, StudyReading.objects.last())[0]
    assert not one.measured
    assert one.distance_m == REFERENCE_DISTANCE_M


def test_the_prior_of_a_rig_is_its_sensitivity(study):
    from inchmark.shelf.records.rigs import facts_of, sensitivity_of

    rig = study.rigs.get()
    prior = facts_of(rig).prior
    assert isinstance(prior, RigPrior)
    assert prior.sensitivity_dbm == sensitivity_of(rig).dbm
