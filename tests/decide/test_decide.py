"""Budgets at the needed distance, and ranges under each rule."""

import pytest
from django.urls import reverse

from inchmark.core.reading.measured import RigPrior
from inchmark.decide.drawings.ladder import ladder_drawing
from inchmark.decide.figures.budgets import budgets
from inchmark.plan.figures.stops import predicted_range
from inchmark.plan.models import Site
from inchmark.plan.services import place_fixed_end
from inchmark.read.services import make_reading
from inchmark.shelf.adapters.ends import sensitivity_of
from inchmark.shelf.adapters.rigs import rig_facts
from inchmark.shelf.services.rigs import save_rig
from inchmark.studies.services import change_study
from tests import make

pytestmark = pytest.mark.django_db


def drawn(direction):
    return ladder_drawing(direction.budget, direction.threshold.dbm)


def test_a_ladder_adds_up_to_what_arrives(walked):
    for one in budgets(make.ground(walked)):
        for way in one.directions:
            arriving = way.budget.arriving_dbm
            assert sum(rung.drawn_db for rung in drawn(way).rungs) == pytest.approx(arriving)
            assert way.in_hand_db == pytest.approx(arriving - way.threshold.dbm)


def test_the_walked_level_is_what_the_ladder_ends_at(walked):
    one = budgets(make.ground(walked))[0]
    level = make.reading(walked).of_rig("A").needed.level_dbm.estimate
    assert one.measured
    assert one.directions[0].budget.arriving_dbm == pytest.approx(level)


def test_the_two_directions_differ_by_what_the_ends_differ_by(walked):
    rig = walked.rigs.get(letter="A")
    rig.fixed_power_dbm = rig.power_dbm + 6
    rig.save()
    there, back = budgets(make.ground(walked))[0].directions
    assert back.in_hand_db - there.in_hand_db == pytest.approx(6)


def test_small_items_stay_readable_beside_a_path_of_a_hundred_decibels(walked):
    rig = walked.rigs.get(letter="A")
    rig.feed_loss_db = 0.5
    rig.save()
    ladder = drawn(budgets(make.ground(walked))[0].directions[0])
    by_name = {(rung.item.place, rung.item.name): rung for rung in ladder.rungs}
    feed, path = by_name["sender", "Feed and connectors"], by_name["path", "Path"]
    assert path.broken
    assert not feed.broken
    assert feed.width >= 0.45  # per cent of some 500 px: more than 2 px
    assert all(rung.x >= 0 and rung.x + rung.width <= 100 for rung in ladder.rungs)


def test_while_the_walk_is_read_again_everything_stays_at_the_distance_it_was_read_at(
    reader, walked
):
    before = budgets(make.ground(walked))[0]
    change_study(walked, needed_m=900.0)
    after = budgets(make.ground(walked))[0]
    assert (after.distance_m, after.in_hand_db) == (300.0, before.in_hand_db)
    html = make.html(reader.get(reverse("decide:decide", args=[walked.pk])))
    assert "being read again for 900 m; until then everything here is at 300 m" in html
    make_reading(walked.pk)
    later = budgets(make.ground(walked))[0]
    assert later.distance_m == 900.0
    assert later.in_hand_db < before.in_hand_db


def test_a_rig_changed_since_it_was_read_does_not_bend_the_path_it_walked(walked):
    path = budgets(make.ground(walked))[0].items["path"]
    rig = walked.rigs.get(letter="A")
    rig.antenna_gain_dbi += 10
    save_rig(walked, rig)
    assert budgets(make.ground(walked))[0].items["path"] == pytest.approx(path)


def test_an_unwalked_rig_on_a_datasheet_says_the_same_as_its_range_on_the_tape(study):
    """At the end of its predicted range a rig has in hand just what the loss rule needs kept."""
    rig = study.rigs.get()
    rig.sensitivity_dbm, rig.sensitivity_per_percent = -123.0, 10.0
    save_rig(study, rig)
    study.needed_m = predicted_range(study, rig, None).middle_m
    study.save()
    (one,) = budgets(make.ground(study))
    assert one.in_hand_db == pytest.approx(one.directions[0].keep_db, abs=0.02)
    source = one.directions[0].threshold.source
    assert "10 % lost at −123.0 dBm, so half are lost 1.5 dB lower" in source


def test_without_a_walk_the_budget_is_predicted_and_says_so(client, study):
    client.force_login(make.owner(study))
    html = make.html(client.get(reverse("decide:decide", args=[study.pk])))
    assert "Predicted: nothing has been walked" in html
    assert "No needed distance is set" in html
    assert "not walked yet" in html
    assert "500 m, exponent 3.1, predicted" in html
    assert "as the plan has it" in html
    place_fixed_end(study, Site(model="free_space", shadowing_db=4.0))
    html = make.html(client.get(reverse("decide:decide", args=[study.pk])))
    assert "500 m, free space, predicted" in html
    assert "spread between places 4 dB" in html


def test_an_empty_study_says_where_to_begin(client):
    study = make.study()
    client.force_login(make.owner(study))
    html = make.html(client.get(reverse("decide:decide", args=[study.pk])))
    assert "No rig on the shelf yet" in html
    assert "To the shelf" in html


def test_the_page_shows_every_rule_side_by_side(reader, walked):
    html = make.html(reader.get(reverse("decide:decide", args=[walked.pk])))
    for words in ("last heard", "stops in a row", "shown", "loss rule", "in hand", "at 300 m"):
        assert words in html
    assert "Twice the range takes" in html
    assert "licensed people decide" in html


def test_the_rig_asked_for_is_the_one_shown(reader, walked):
    page = reverse("decide:decide", args=[walked.pk])
    html = make.html(reader.get(page, {"rig": "A"}))
    assert 'aria-current="true">A ' in html


def test_the_page_costs_a_fixed_number_of_queries(
    reader,
    walked,
    django_assert_max_num_queries,
):
    with django_assert_max_num_queries(17):
        reader.get(reverse("decide:decide", args=[walked.pk]))


def test_without_a_needed_distance_the_walked_path_is_drawn_at_500_m(walked):
    change_study(walked, needed_m=None)
    make_reading(walked.pk)
    one = budgets(make.ground(walked))[0]
    assert one.measured
    assert one.distance_m == 500.0


def test_the_prior_of_a_rig_is_the_level_at_half_loss(study):
    rig = study.rigs.get()
    prior = rig_facts(rig).prior
    assert isinstance(prior, RigPrior)
    assert prior.sensitivity_dbm == sensitivity_of(rig).threshold_dbm
