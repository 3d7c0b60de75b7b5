"""Needed places in Decide: from the walk, the weakest first, and what nodes take from each other."""

import pytest
from django.urls import reverse

from inchmark.core.interval import Estimate
from inchmark.core.reading.expected import PlaceReading, Served
from inchmark.decide.figures.places import places_table
from inchmark.plan.models import Site, SitePoint
from inchmark.plan.services import place_fixed_end
from inchmark.plan.services.points import save_point
from inchmark.read.services import make_reading
from tests import make

pytestmark = pytest.mark.django_db
M_PER_DEG = 111_178.0


@pytest.fixture
def gated(walked):
    """The walked study with three gates to the north, at 120, 260 and 900 m."""
    place_fixed_end(walked, Site(fixed_name="mast", lat=47.0, lon=-22.0))
    for metres in (120, 900, 260):
        node = SitePoint(kind=SitePoint.NODE, name="gate", lat=47.0 + metres / M_PER_DEG, lon=-22.0)
        save_point(walked, node)
    make_reading(walked.pk)
    return walked


def page(client, study):
    return make.html(client.get(reverse("decide:decide", args=[study.pk])))


def test_places_stand_with_how_many_are_served_the_weakest_first(reader, gated):
    reading = make.reading(gated)
    assert [len(one.places) for one in reading.served] == [3, 3]
    html = page(reader, gated)
    assert "of 3 (95 %:" in html
    table = places_table(reading.served, {p.label: p for p in gated.points.all()})
    assert [row.label for row in table.rows] == ["N2", "N3", "N1"]
    assert table.rows[0].extrapolated == "farther than any stop"
    assert "farther than any stop" in html
    assert table.headline == table.served[0][1]


def test_without_places_any_place_at_the_needed_distance_stands_for_them(reader, walked):
    assert [one.places[0].place for one in make.reading(walked).served] == [
        "any place at 300 m"
    ] * 2
    assert "any place at 300 m, the rule is met with" in page(reader, walked)


def test_without_a_needed_distance_or_places_there_is_no_table(reader, walked):
    walked.needed_m = None
    walked.save()
    make_reading(walked.pk)
    assert make.reading(walked).served == ()
    assert "Needed places, from the walk" not in page(reader, walked)
    assert places_table([], {}) is None


def test_a_place_says_what_is_known_of_it_and_no_more():
    half = Estimate(0.5, 0.2, 0.8)
    told = PlaceReading(
        place="N1", distance_m=100.0, in_hand_db=Estimate(3.0, -1.0, 7.0), share=half, meets=half,
        measured_at="2",
    )  # fmt: skip
    bare = PlaceReading(place="N2", distance_m=200.0)
    table = places_table([Served(rig="A", places=(told, bare), count=None)], {})
    last, first = table.rows[1].cells[0], table.rows[0].cells[0]
    assert (last.verdict, last.measured_at, last.in_hand) == ("open", "2", "+3.0 dB (−1.0 … 7.0)")
    assert (first.verdict, first.chance, first.share) == ("", None, "")


def test_nodes_take_frames_from_each_other(reader, gated):
    """Three nodes of one airtime T each period P lose 1 - exp(-4 T / P) (Abramson 1970)."""
    gated.rigs.update(period_s=1.0)
    html = page(reader, gated)
    assert "3 nodes on one channel take" in html
    assert "nodes would use half of the loss allowed" in html
    one = gated.points.filter(label="N2")
    one.delete()
    gated.points.filter(label="N3").delete()
    assert "on one channel take" not in page(reader, gated)
