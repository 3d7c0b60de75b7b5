"""One rig over several studies, and a study that begins with the shelf and plan of another."""

import io

import pytest
from django.urls import reverse

from inchmark.decide.services.across import rigs_across
from inchmark.decide.services.bundles.into import take_bundle
from inchmark.decide.services.bundles.out import write_bundle
from inchmark.read.services import make_reading
from inchmark.studies.models import Study
from tests import make

pytestmark = pytest.mark.django_db


def test_the_same_rig_stands_in_one_table_over_its_studies(reader, walked):
    owner, file = make.owner(walked), io.BytesIO()
    write_bundle(walked, file)
    away = take_bundle(file, owner)
    make_reading(away.pk)
    found = rigs_across(owner)
    assert found[0].studies == 2
    ranges = {
        study.pk: {row.letter: row.range_m for row in found[0].rows if row.study == study}
        for study in (walked, away)
    }
    assert ranges[away.pk] == ranges[walked.pk]
    assert set(ranges[away.pk]) == {"A", "B"}
    assert found[0].rows[0].study == away  # the newest first
    html = make.html(reader.get(reverse("across")))
    assert html.count(reverse("read:reading", args=[away.pk])) >= 1
    assert "farthest distance where" in html


def test_others_studies_are_not_among_them(client, walked):
    client.force_login(make.user())
    assert "No study of yours has been read yet" in make.html(client.get(reverse("across")))


def test_the_next_study_begins_with_shelf_and_plan_and_nothing_walked(reader, walked):
    sent = reader.post(reverse("decide:copy", args=[walked.pk]))
    made = Study.objects.latest("pk")
    assert sent.url == reverse("shelf:rigs", args=[made.pk])
    assert made.title == "A study, next"
    assert made.needed_m == walked.needed_m
    assert [one.letter for one in made.rigs.all()] == [one.letter for one in walked.rigs.all()]
    assert made.stops.count() == walked.stops.count()
    assert not made.walks.exists()
    assert not made.decisions.exists()
