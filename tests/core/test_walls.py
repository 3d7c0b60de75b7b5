"""Walls drawn on a plan: where a path crosses them, what that costs, and what predictions make of it."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from inchmark.core.geodesy import Place, destination, distances_m, map_distances_m, plane_m
from inchmark.core.link import Link
from inchmark.core.margin_map import Box, best_law_map, law_map
from inchmark.core.prediction import NO_WALLS, Paths, Surroundings, WalkedLaw, predict_paths
from inchmark.core.propagation.crossings import (
    Pieces,
    Segments,
    crossed_sums,
    crossing_counts,
)
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.propagation.walls import MOST_WALL_DB, Wall, Walls, crossed_words

START = Place(lat_deg=47.5, lon_deg=-21.0)
LINK = Link(
    reference_dbm=0.0, threshold_dbm=-70.0, height1_m=2.0, height2_m=1.5, frequency_hz=868e6
)
metres = st.integers(-30, 30)
points = st.tuples(metres, metres)


def at(east, north):
    found = destination(START, float(np.degrees(np.arctan2(east, north))), np.hypot(east, north))
    return found.lat_deg, found.lon_deg


def wall(*ends, **more):
    return Wall(points=tuple(at(*one) for one in ends), **more)


def crossed_exactly(to, first, second):
    """Cramer's rule in whole fractions: how far along the path and along the wall they meet."""
    (x, y), (ax, ay), (bx, by) = to, first, second
    down = x * (by - ay) - y * (bx - ax)
    if down == 0:
        return None  # side by side: nothing is said of them
    along = Fraction(ax * (by - ay) - ay * (bx - ax), down)
    on_wall = Fraction(ax * y - ay * x, down)
    if along in (0, 1) or on_wall in (0, 1):
        return None  # an end touches: which side counts is ours to choose
    return 0 < along < 1 and 0 < on_wall < 1


@given(to=points, first=points, second=points)
def test_a_piece_is_crossed_where_exact_arithmetic_says_so(to, first, second):
    want = crossed_exactly(to, first, second)
    ends = np.array([[*first, *second]], dtype=float)
    pieces = Segments(ends_m=ends, owner=np.array([0]), start=START)
    lat, lon = at(*to)
    seen = plane_m(START, lat, lon)
    np.testing.assert_allclose(seen, to, atol=1e-3)  # a millimetre on 40 m: meridians meet
    if want is not None and min(abs(_apart(to, one)) for one in (first, second)) > 1e-3:
        assert crossing_counts(pieces, lat, lon, 1)[0, 0] == want


def _apart(to, point):
    """How far a point lies off the path's line, so that rounding of coordinates decides nothing."""
    length = np.hypot(*to) or 1.0
    return (to[0] * point[1] - to[1] * point[0]) / length


def test_a_corner_is_crossed_once_and_a_room_twice():
    room = wall((10, -5), (10, 5), (20, 5), (20, -5), (10, -5))
    bent = wall((10, -5), (10, 0), (12, 5))
    walls = Walls(walls=(room, bent))
    lat, lon = zip(at(30, 0), at(15, 1), at(5, 0), at(-30, 0), strict=True)
    assert walls.crossed(START, lat, lon).tolist() == [[2, 1], [1, 1], [0, 0], [0, 0]]
    assert crossed_words(walls, [2, 1]) == "3 walls (light wall)"


def test_compiled_loops_agree_with_the_plain_count():
    random = np.random.default_rng(3)
    lines = [[at(*random.uniform(-40, 40, 2)) for _ in range(4)] for _ in range(30)]
    pieces = Pieces.of(lines).seen_from(START)
    lat, lon = zip(*(at(*one) for one in random.uniform(-60, 60, (300, 2))), strict=True)
    loss = random.uniform(1, 12, 30)
    want = crossing_counts(pieces, lat, lon, 30) @ loss
    np.testing.assert_allclose(crossed_sums(pieces, lat, lon, loss[pieces.owner]), want, atol=1e-9)


def test_the_plane_keeps_distances():
    lat, lon = START.lat_deg + np.array([0.05, -0.02, 0.0]), START.lon_deg + np.array([0.1, 0, 0.3])
    away = np.hypot(*plane_m(START, lat, lon).T)
    want = distances_m(START, lat, lon)
    # meridians meet: off by half the difference in latitude times its tangent, and 1 in 10^5 beside
    bound = np.radians(abs(lat - START.lat_deg)) / 2 * np.tan(np.radians(47.5)) + 1e-5
    assert np.all(abs(away / want - 1) <= bound)


@pytest.mark.parametrize(
    ("kind", "thickness", "hertz", "loss"),
    [
        # ITU-R P.2040-3, single-layer slab, normal incidence: tests/reference/building_materials.csv
        ("concrete", 0.2, 868e6, 7.491412802),
        ("concrete", 0.2, 2.44e9, 14.76012338),
        ("brick", 0.24, 868e6, 5.55057223),
        ("plasterboard", 0.0125, 2.44e9, 1.088238324),
        ("glass", 0.006, 433e6, 0.1004924499),
        # COST Action 231, final report, table 4.7.2: light and heavy walls; from memory
        ("light", None, 868e6, 3.4),
        ("heavy", None, 2.44e9, 6.9),
        ("metal", None, 868e6, MOST_WALL_DB),
    ],
)
def test_a_crossing_costs_what_is_published(kind, thickness, hertz, loss):
    one = wall((5, -5), (5, 5), kind=kind, thickness_m=thickness)
    assert one.crossing_db(hertz) == pytest.approx(loss, abs=0.05)


def test_a_typed_loss_goes_before_what_a_wall_is_made_of():
    one = wall((5, -5), (5, 5), kind="concrete", loss_db=11.0)
    assert one.crossing_db(868e6) == 11.0
    assert not one.follows_frequency
    made = wall((5, -5), (5, 5), kind="concrete")
    assert made.follows_frequency
    assert not made.stated_at(868e6)  # P.2040-3 states concrete from 1 GHz on
    assert made.stated_at(2.44e9)


@pytest.mark.parametrize(
    ("what", "words"),
    [
        ({"kind": "straw"}, "kind='straw'"),
        ({"kind": "typed"}, "needs its loss_db"),
        ({"thickness_m": 9.0}, "thickness_m"),
        ({"loss_db": -1.0}, "loss_db"),
    ],
)
def test_a_wall_that_cannot_be_is_refused(what, words):
    with pytest.raises(ValueError, match=words):
        wall((5, -5), (5, 5), **what)
    with pytest.raises(ValueError, match="two points"):
        Wall(points=(at(1, 1),))


def paths(loss, **more):
    d = np.array([20.0, 20.0])
    return Paths(
        distance_m=d, height1_m=np.full(2, 2.0), height2_m=np.full(2, 1.5), frequency_hz=2.44e9,
        walls_db=np.array(loss), crossed=["2 walls (brick)", "No wall"], **more,
    )  # fmt: skip


WALLS = Walls(walls=(wall((5, -5), (5, 5)),))


def test_inside_a_building_drawn_walls_take_the_place_of_the_usual_ones():
    site = Surroundings(model="indoor", walls=WALLS)
    found = predict_paths(paths([9.0, np.nan], floors=np.array([1.0, 0.0])), site)
    behind, unknown = found.at(0), found.at(1)
    assert [name for name, _ in behind.parts] == ["Free space and floors", "2 walls (brick)"]
    free = float(free_space_loss_db(20.0, 2.44e9))
    # one floor of an office at 2.4 GHz and over: 15 dB (ITU-R P.1238, from memory)
    assert behind.loss_db == pytest.approx(free + 15.0 + 9.0)
    assert unknown.parts[0][0].startswith("Indoors, ")
    assert NO_WALLS in unknown.warnings
    assert NO_WALLS not in behind.warnings


def test_walls_count_as_the_walk_found_them_and_not_at_all_where_it_did_not():
    law = WalkedLaw(loss_db=80.0, at_m=20.0, exponent=2.0, shadowing_db=4.0, wall_factor=0.5)
    site = Surroundings(walls=WALLS, walked=law)
    assert predict_paths(paths([9.0, 0.0]), site).loss_db.tolist() == [84.5, 80.0]
    unseen = Surroundings(walls=WALLS, walked=WalkedLaw(loss_db=80.0, at_m=20.0, exponent=2.0, shadowing_db=4.0))  # fmt: skip
    assert predict_paths(paths([9.0, 0.0]), unseen).loss_db.tolist() == [80.0, 80.0]
    near = Surroundings(model="free_space", walls=WALLS)
    assert predict_paths(paths([9.0, 0.0], magnetic=True), near).walls_db.tolist() == [0.0, 0.0]


def test_a_map_without_terrain_falls_at_a_wall_and_the_nearest_end_counts():
    thick = Walls(walls=(wall((10, -60), (10, 60), loss_db=20.0, kind="typed"),))
    box = Box.around([at(-40, -40), at(40, 40)])
    bare = law_map(box, START, LINK, Surroundings(model="free_space"), size=64)
    walled = law_map(box, START, LINK, Surroundings(model="free_space", walls=thick), size=64)
    east = plane_m(START, START.lat_deg, walled.lon_deg)[:, 0]
    row = 32
    before, behind = east < 9.5, east > 10.5
    np.testing.assert_array_equal(walled.share[row, before], bare.share[row, before])
    assert np.all(walled.share[row, behind] < 0.6 * bare.share[row, behind])
    other = Place(lat_deg=at(30, 0)[0], lon_deg=at(30, 0)[1])
    site = Surroundings(model="free_space", walls=thick)
    both = best_law_map(box, [(START, LINK), (other, LINK)], site, size=64).share
    assert np.all(both >= walled.share)
    with pytest.raises(ValueError, match="no fixed end"):
        best_law_map(box, [], site)


@pytest.mark.parametrize("lat", [0.0, 47.5, -69.0])
@pytest.mark.parametrize(("wide", "off"), [(0.01, 2e-9), (0.1, 2e-7), (0.49, 4e-6)])
def test_cells_of_a_map_are_as_far_as_the_geodesic_says(lat, wide, off):
    random, start = np.random.default_rng(7), Place(lat_deg=lat, lon_deg=-21.0)
    lats, lons = (one + random.uniform(-wide, wide, 500) for one in (lat, -21.0))
    exact = distances_m(start, lats, lons)  # Karney 2013, by pyproj
    np.testing.assert_allclose(map_distances_m(start, lats, lons), exact, rtol=off)


def test_cells_far_off_or_near_a_pole_are_measured_by_the_geodesic_itself():
    for lat, lons in ((47.5, [-19.0]), (80.0, [-20.9])):
        start = Place(lat_deg=lat, lon_deg=-21.0)
        lats, lons = np.full(1, lat + 0.1), np.array(lons)
        assert map_distances_m(start, lats, lons) == distances_m(start, lats, lons)


def test_a_box_is_never_narrower_than_a_small_house_and_stays_on_the_terrain():
    box = Box.around([(47.5, -21.0)])
    assert box.north_deg - box.south_deg == pytest.approx(1.4e-4)
