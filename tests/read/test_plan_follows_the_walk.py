"""What the walk teaches reaches Plan, Walk and the tape."""

import pytest
from django.urls import reverse

from inchmark.plan.adapters.predictions import loss_between
from inchmark.plan.adapters.walked import around_of
from inchmark.plan.services import site_of
from inchmark.read.adapters import kept_reading, walked_law
from inchmark.read.figures.beside import beside
from inchmark.read.services import make_reading
from tests import make

pytestmark = pytest.mark.django_db


def test_predictions_follow_the_walk_and_say_so(reader, walked):
    page = reverse("plan:predicted", args=[walked.pk])
    html = make.html(reader.get(page))
    assert "Predicted from the walk: slope" in html
    before = make.html(reader.get(page, {"as": "planned"}))
    assert "Predicted from the walk" not in before
    assert html != before


def test_the_walked_law_is_the_readings_own(walked):
    reading, law = kept_reading(walked).reading, walked_law(walked)
    assert law.exponent == reading.site.exponent.estimate
    for rig in reading.rigs:
        expected = rig.reference_dbm - rig.needed.level_dbm.estimate
        assert law.of_rig(rig.rig).loss_at(rig.needed.distance_m) == pytest.approx(expected)
    assert law.of_rig("Z").loss_db == law.loss_db
    around = around_of(walked, site_of(walked))
    assert around.shadowing_db == law.shadowing_db
    assert around_of(walked, site_of(walked), as_planned=True).walked is None


def test_a_study_not_walked_is_predicted_as_planned(study):
    make.rig(study, "B")
    assert around_of(study, site_of(study)).walked is None
    assert walked_law(study) is None
    assert loss_between(study.rigs.first(), site_of(study), 100.0).loss_db > 0


def test_where_to_stand_next_is_on_the_tape_and_on_every_page(reader, walked):
    guided = kept_reading(walked).reading.guidance
    assert guided.verdict != "enough"
    for name in ("read:reading", "plan:stops", "walk:walks"):
        html = make.html(reader.get(reverse(name, args=[walked.pk]), follow=True))
        assert "stop-next" in html
        assert guided.sentence in html


def test_a_planned_stop_not_walked_yet_can_be_the_next(walked):
    next_m = kept_reading(walked).reading.guidance.next_m
    make.stop(walked, "far", round(next_m, 1))
    make_reading(walked.pk)
    from inchmark.read import adapters

    adapters.forget()
    guided = kept_reading(walked).reading.guidance
    assert (guided.next_label, guided.next_m) == ("far", round(next_m, 1))


def test_predicted_stands_beside_measured_stop_by_stop(reader, walked):
    found = beside(walked, kept_reading(walked).reading)
    assert {row.rig for row in found.rows} == {"A", "B"}
    for row in found.rows:
        assert row.off_db == pytest.approx(row.walked.level_dbm.estimate - row.predicted_dbm)
    html = make.html(reader.get(reverse("read:reading", args=[walked.pk])))
    assert "Predicted and measured" in html
    assert found.plan.sentence in html
    assert found.walks == []
