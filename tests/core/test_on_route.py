"""A distance as a place on the way from stop to stop."""

import pytest

from inchmark.core.geodesy import Place, destination, geodesic
from inchmark.core.planning.on_route import on_route

FIXED = Place(lat_deg=53.4, lon_deg=5.2)
STRAIGHT = [
    (str(i), destination(FIXED, 40.0, metres)) for i, metres in enumerate((100, 300, 900), 1)
]


@pytest.mark.parametrize(
    ("metres", "words"),
    [(60, "on the way to stop 1"), (200, "between stops 1 and 2"), (600, "between stops 2 and 3")],
)
def test_a_distance_on_the_way_lies_between_its_stops(metres, words):
    found = on_route(FIXED, STRAIGHT, metres)
    assert found.words == words
    course = geodesic(FIXED, found.place)
    assert course.distance_m == pytest.approx(metres, abs=0.05)
    assert course.azimuth_deg == pytest.approx(40, abs=0.01)


def test_beyond_the_last_stop_its_bearing_goes_on():
    found = on_route(FIXED, STRAIGHT, 1500)
    assert "beyond stop 3" in found.words
    assert geodesic(FIXED, found.place).azimuth_deg == pytest.approx(40, abs=0.01)


def test_a_way_that_turns_is_followed_and_not_cut():
    bent = [("1", destination(FIXED, 0.0, 400)), ("2", destination(FIXED, 90.0, 800))]
    found = on_route(FIXED, bent, 600)
    assert found.words == "between stops 1 and 2"
    assert 20 < geodesic(FIXED, found.place).azimuth_deg < 80


def test_the_first_crossing_counts_where_the_way_comes_back():
    out_and_back = [("1", destination(FIXED, 0.0, 500)), ("2", destination(FIXED, 0.0, 50))]
    assert on_route(FIXED, out_and_back, 300).words == "on the way to stop 1"


def test_without_stops_there_is_no_way():
    assert on_route(FIXED, [], 300) is None
