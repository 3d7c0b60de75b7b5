"""Figures as who is signed in wants them: feet and miles, their clock, their order of dates."""

import datetime

import pytest
from django.urls import reverse

from inchmark.core.wording import distance, distances_in_feet
from inchmark.decide.services.decisions import take_decision
from inchmark.pages.personal import Personal, day, moment, shown_to
from inchmark.studies.tape.scale import Scale
from tests import make

pytestmark = pytest.mark.django_db
NOON = datetime.datetime(2026, 7, 14, 23, 30, tzinfo=datetime.UTC)


@pytest.mark.parametrize(
    ("metres", "words"),
    [
        (0.0254, "1 in"),
        (0.3048, "1 ft"),
        (100.0, "328 ft"),
        (1609.344, "1 mi"),
        (5000.0, "3.11 mi"),
    ],
)
def test_feet_are_inches_below_one_and_miles_above_5280(metres, words):
    with distances_in_feet(on=True):
        assert distance(metres) == words
    assert "m" in distance(metres)


def test_the_tape_is_ruled_in_round_feet_for_who_wants_them():
    with distances_in_feet(on=True):
        labels = [one.label for one in Scale.over([20.0, 4000.0]).ticks(1200.0) if one.label]
    assert {"100 ft", "1000 ft", "1 mi"} <= set(labels)
    assert not any(label.endswith(" m") for label in labels)


def test_moments_are_told_on_ones_own_clock_and_dates_in_ones_own_order():
    with shown_to(Personal(zone="Europe/Lisbon", dates="M j, Y")):
        assert moment(NOON) == "Jul 15, 2026, 00:30 WEST"
        assert day(NOON.date()) == "Jul 14, 2026"
    assert moment(NOON) == "14 Jul 2026, 23:30 UTC"
    assert (moment(None), day(None)) == ("", "")


def test_the_choice_is_ones_own_and_reaches_pages_that_are_kept(client, walked):
    owner, other = make.owner(walked), make.member(walked, "editor")
    page = reverse("decide:decide", args=[walked.pk])
    client.force_login(owner)
    assert "needed 300 m" in make.html(client.get(page))
    typed = {"feet": "on", "zone": "America/Chicago", "dates": "Y-m-d"}
    said = make.html(client.post(reverse("people:figures"), typed, follow=True))
    assert "Figures are shown so from now on." in said
    html = make.html(client.get(page))
    assert "needed 984 ft" in html
    assert "needed 300 m" not in html
    changes = make.html(client.get(reverse("studies:changes", args=[walked.pk])))
    assert "UTC" not in changes.split("<main")[1].split("</main")[0]
    client.force_login(other)
    assert "needed 300 m" in make.html(client.get(page))


def test_a_time_zone_nobody_knows_is_refused_in_words(owner_client):
    response = owner_client.post(
        reverse("people:figures"), {"zone": "Atlantis/Deep", "dates": "j M Y"}
    )
    assert response.status_code == 422
    assert "“Atlantis/Deep” is no time zone" in make.html(response)


def test_a_decision_and_a_report_are_written_in_metres_whoever_asks(reader, walked):
    with shown_to(Personal(feet=True)):
        taken = take_decision(walked, make.owner(walked), name="D", letter="A", chosen="A", reasons="r")  # fmt: skip
        assert " ft" not in f"{taken.evidence} {taken.answer}"
    reader.post(reverse("people:figures"), {"feet": "on", "zone": "UTC", "dates": "j M Y"})
    words = reader.get(reverse("decide:report-md", args=[walked.pk])).content.decode()
    assert " ft" not in words
    assert "300 m" in words


def test_what_is_stored_and_handed_out_stays_in_metres(reader, walked):
    reader.post(reverse("people:figures"), {"feet": "on", "zone": "UTC", "dates": "j M Y"})
    reading = reader.get(reverse("read:export-reading", args=[walked.pk]))
    assert b" ft" not in reading.content
    assert b'"distance_m"' in reading.content
