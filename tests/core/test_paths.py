"""Paths over ground and terrain: laws, edges, and where models stop holding."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage

from inchmark.cli.reference.formulas import exact_knife_edge_loss_db, far_ground_loss_db
from inchmark.core.geodesy import Place, destination, distances_m
from inchmark.core.link import Link
from inchmark.core.margin_map import best_map, margin_map
from inchmark.core.path_view import fine_profile, path_view
from inchmark.core.prediction import Paths, Surroundings, predict_paths, predict_stops
from inchmark.core.propagation.clutter import height_gain_loss_db, statistical_clutter_loss_db
from inchmark.core.propagation.cover import woodland_figures
from inchmark.core.propagation.diffraction import delta_bullington
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.propagation.indoors import building_entry_loss_db
from inchmark.core.propagation.inductive import (
    coupled_loss_db,
    inductive_loss_db,
    near_field_end_m,
)
from inchmark.core.propagation.knife_edge import knife_edge_loss_db
from inchmark.core.propagation.two_ray import (
    GROUNDS,
    break_distance_m,
    two_ray_loss_db,
)
from inchmark.core.propagation.validity import outside
from inchmark.core.propagation.woodland import woodland_loss_db
from inchmark.core.terrain import TerrainGrid, standing_clear
from inchmark.core.terrain_paths import losses_from
from tests import strategies as our

FLAT = (np.linspace(0, 2000, 81), np.full(81, 5.0))


def hill(height, at=1000.0, width=60.0):
    d = FLAT[0]
    return d, 5.0 + height * np.exp(-(((d - at) / width) ** 2))


@given(st.floats(-0.5, 5))
def test_the_approximation_stays_within_two_tenths_of_the_integrals(nu):
    """ITU-R P.526 says 0.2 dB is about what the approximation costs beyond -0.7."""
    assert abs(knife_edge_loss_db(nu) - exact_knife_edge_loss_db(nu)) < 0.2


def test_over_perfect_ground_far_out_two_rays_fall_by_forty_decibels_a_decade():
    near, far = (
        two_ray_loss_db(2.0, 2.0, d, 868e6, ground=GROUNDS["ground"], polarisation="horizontal")
        for d in (5e3, 5e4)
    )
    assert far - near == pytest.approx(40, abs=0.1)
    assert far == pytest.approx(far_ground_loss_db(2.0, 2.0, 5e4), abs=0.1)


@given(our.frequencies_hz, st.floats(0.5, 20), st.floats(0.5, 20))
def test_the_break_is_the_same_from_both_ends(frequency, one, other):
    assert break_distance_m(one, other, frequency) == pytest.approx(
        break_distance_m(other, one, frequency)
    )


@given(st.floats(0, 60), st.floats(100, 1900))
def test_a_hill_never_helps(height, at):
    d, h = hill(height, at)
    options = {"height1_m": 2.0, "height2_m": 2.0, "frequency_hz": 868e6}
    assert delta_bullington(d, h, **options).loss_db >= -1e-9


def test_a_higher_hill_costs_more_and_a_mast_gets_over_it():
    def loss(height, mast):
        return float(
            delta_bullington(
                *hill(height), height1_m=2.0, height2_m=mast, frequency_hz=868e6
            ).loss_db
        )

    assert loss(10, 2.0) < loss(20, 2.0) < loss(40, 2.0)
    assert loss(20, 60.0) < loss(20, 10.0)


def test_many_paths_at_once_are_the_same_as_one_by_one():
    rows = [hill(height, at) for height, at in ((0, 500), (15, 700), (30, 1500))]
    d = np.array([row[0] for row in rows])
    h = np.array([row[1] for row in rows])
    at_once = delta_bullington(
        d, h, height1_m=3.0, height2_m=np.array([2.0, 2.0, 8.0]), frequency_hz=868e6
    ).loss_db
    for i, mast in enumerate((2.0, 2.0, 8.0)):
        alone = delta_bullington(d[i], h[i], height1_m=3.0, height2_m=mast, frequency_hz=868e6)
        assert at_once[i] == pytest.approx(float(alone.loss_db), abs=1e-9)


def test_both_directions_lose_the_same():
    d, h = hill(25, 600)
    there = delta_bullington(d, h, height1_m=2.0, height2_m=9.0, frequency_hz=868e6)
    back = delta_bullington(d, h[::-1], height1_m=9.0, height2_m=2.0, frequency_hz=868e6)
    assert there.loss_db == pytest.approx(float(back.loss_db), abs=1e-6)


@pytest.mark.parametrize("d", [[0, 100], [0, 200, 100], [0, 100, 100]])
def test_a_profile_that_is_none_is_refused(d):
    with pytest.raises(ValueError, match=r"three points|ascend"):
        delta_bullington(d, np.zeros(len(d)), height1_m=2, height2_m=2, frequency_hz=868e6)


def test_the_side_view_finds_the_hill_and_what_it_costs():
    view = path_view(*hill(20), height1_m=3.0, height2_m=3.0, frequency_hz=868e6)
    assert not view.sighted
    (obstacle,) = [one for one in view.obstacles if one.loss_db > 10]
    assert obstacle.distance_m == pytest.approx(1000, abs=25)
    assert obstacle.above_line_m == pytest.approx(17, abs=0.2)
    assert view.distance_m[view.worst] == pytest.approx(1000, abs=25)


def test_high_masts_over_flat_ground_are_clear():
    view = path_view(*FLAT, height1_m=30.0, height2_m=30.0, frequency_hz=2.4e9)
    assert view.clear
    assert view.obstacles == ()
    assert view.diffraction_db == pytest.approx(0, abs=0.01)


def grid(heights):
    return TerrainGrid(
        north_deg=47.51,
        west_deg=-21.01,
        lat_step_deg=0.001,
        lon_step_deg=0.001,
        heights_m=np.asarray(heights, dtype=np.float32),
    )


def test_heights_between_cells_lie_on_the_plane_through_them():
    rows, columns = np.mgrid[0:21, 0:21]
    plane = grid(10 + 2.0 * rows + 3.0 * columns)
    assert plane.height_m(47.51 - 0.0025, -21.01 + 0.0035) == pytest.approx(10 + 5 + 10.5, abs=1e-3)
    assert np.isnan(plane.height_m(47.6, -21.0))


def test_a_profile_runs_from_end_to_end_and_refuses_what_is_not_covered():
    flat = grid(np.full((21, 21), 7.0))
    start = Place(lat_deg=47.5, lon_deg=-21.0)
    d, h = flat.profile(start, destination(start, 45.0, 600.0))
    assert d[0] == 0
    assert d[-1] == pytest.approx(600, abs=0.1)
    assert np.all(h == 7.0)
    with pytest.raises(ValueError, match="does not cover"):
        flat.profile(start, destination(start, 45.0, 20_000.0))


@given(st.floats(0, 500), st.floats(1, 100))
def test_woodland_costs_more_the_deeper_and_never_more_than_its_most(depth, more):
    def loss(metres):
        return woodland_loss_db(metres, most_db=25.0, per_metre_db=0.2)

    assert loss(depth) <= loss(depth + more) <= 25.0


@given(st.floats(0.02, 0.98))
def test_more_places_need_a_larger_loss_allowed(share):
    further = min(share + 0.01, 0.99)
    for model in (
        lambda p: statistical_clutter_loss_db(400.0, 868e6, share=p),
        lambda p: building_entry_loss_db(868e6, building="traditional", share=p),
    ):
        assert model(further) >= model(share)


def test_above_its_clutter_an_antenna_loses_nothing():
    assert height_gain_loss_db(12.0, 868e6, kind="Suburban", clutter_height_m=10.0) == 0


def test_the_near_field_of_a_loop_falls_by_sixty_decibels_a_decade_and_ends():
    """lambda / 2 pi at 125 kHz is 382 m (textbook)."""
    assert inductive_loss_db(5.0, reference_m=0.5, reference_loss_db=20.0) == pytest.approx(80)
    assert near_field_end_m(125e3) == pytest.approx(381.7, abs=0.1)


@pytest.mark.parametrize(
    ("model", "frequency", "distance", "words"),
    [
        ("statistical_clutter", 868e6, 100.0, "100 m is outside"),
        ("statistical_clutter", 433e6, 500.0, "433 MHz is outside"),
        ("indoor", 433e6, 10.0, "P.1238"),
        ("height_gain", 5e9, 100.0, "P.2108-1, clause 3.1"),
        ("inductive", 13.56e6, 10.0, "beyond the near field"),
    ],
)
def test_outside_its_range_a_model_says_so(model, frequency, distance, words):
    (found,) = outside(model, frequency_hz=frequency, distance_m=distance)
    assert words in found
    assert outside("free_space", frequency_hz=frequency, distance_m=distance) == []


def test_an_unknown_model_is_refused():
    with pytest.raises(ValueError, match="must be one of"):
        outside("crystal ball", frequency_hz=1e9, distance_m=10)


def paths(**changes):
    fine = {
        "distance_m": np.array([500.0]),
        "height1_m": 5.0,
        "height2_m": 0.4,
        "frequency_hz": 868e6,
    }
    return Paths(**fine | changes)


def test_free_space_is_the_least_any_model_predicts_and_cover_adds_to_it():
    least = float(free_space_loss_db(500.0, 868e6))
    for model in ("log_distance", "free_space", "two_ray"):
        plain = predict_paths(paths(), Surroundings(model=model)).at(0)
        assert plain.loss_db >= least - 6.03  # two rays in phase give 6 dB
        wood = paths(cover=["woodland"], cover_m=30.0)
        covered = predict_paths(wood, Surroundings(model=model)).at(0)
        assert covered.loss_db > plain.loss_db
        assert sum(db for _, db in covered.parts) == pytest.approx(covered.loss_db)


def test_terrain_without_a_profile_falls_back_and_says_so():
    """One path without a profile beside one with: each is worked out as if it were alone."""
    view = path_view(*hill(30), height1_m=5.0, height2_m=0.4, frequency_hz=868e6)
    both = paths(
        distance_m=np.array([500.0, 2000.0]), diffraction_db=np.array([np.nan, view.diffraction_db])
    )
    found = predict_paths(both, Surroundings(model="terrain"))
    assert "No terrain covers this path" in found.at(0).warnings[0]
    flat = predict_paths(paths(), Surroundings(model="two_ray")).at(0)
    assert found.at(0).loss_db == pytest.approx(flat.loss_db)
    assert found.at(1).warnings == ()
    expected = float(free_space_loss_db(2000.0, 868e6)) + view.diffraction_db
    assert found.at(1).loss_db == pytest.approx(expected)


def test_at_the_threshold_half_of_the_frames_are_expected():
    loss = predict_paths(paths(), Surroundings(model="free_space")).loss_db
    link = replace(LINK, reference_dbm=0.0, threshold_dbm=-float(loss[0]))
    (stop,) = predict_stops(link, loss, shadowing_db=6.0)
    assert stop.expected_share == pytest.approx(0.5)
    assert stop.high_dbm - stop.low_dbm == pytest.approx(2 * 1.2816 * 6, abs=1e-6)


def test_floors_and_the_kind_of_building_count_indoors():
    """P.1238 (editions before -11, from memory): offices at 900 MHz, N = 33, 9 dB the first floor.

    At 868 MHz the table's lowest row holds; the range of validity, from 900 MHz, is warned of.
    """
    inside = paths(distance_m=np.array([30.0, 30.0]), floors=np.array([0.0, 1.0]))
    found = predict_paths(inside, Surroundings(model="indoor", building="office"))
    assert found.loss_db[1] == pytest.approx(88.515, abs=0.01)  # table case bv-a26
    assert found.loss_db[1] - found.loss_db[0] == pytest.approx(9.0)
    assert "868 MHz is outside" in found.at(0).warnings[0]
    hall = predict_paths(inside, Surroundings(model="indoor", building="commercial"))
    assert hall.loss_db[0] < found.loss_db[0]


def test_loops_couple_with_the_cube_of_distance_and_meet_free_space_where_the_near_field_ends():
    """Textbook: 60 dB a decade inside lambda / 2 pi, 6.02 dB there, 20 dB a decade outside."""
    end = 299_792_458.0 / 13.56e6 / (2 * np.pi)
    loss = coupled_loss_db(np.array([0.1 * end, end, 10 * end]), 13.56e6)
    assert loss == pytest.approx([6.02 - 60, 6.02, 26.02], abs=0.01)
    near = paths(distance_m=np.array([0.5, 10.0]), frequency_hz=13.56e6, magnetic=True)
    found = predict_paths(near, Surroundings(model="two_ray"))
    assert found.at(0).parts[0][0] == "Magnetic coupling"
    assert found.at(0).warnings == ()
    assert "beyond the near field" in found.at(1).warnings[0]


@given(mhz=st.floats(50, 6000), more=st.floats(1.01, 3))
def test_a_wood_costs_more_the_higher_the_frequency(mhz, more):
    one, other = woodland_figures(mhz * 1e6), woodland_figures(mhz * more * 1e6)
    assert other.most_db > one.most_db
    assert other.per_metre_db > one.per_metre_db


def test_below_half_a_gigahertz_clutter_is_reckoned_by_height_gain():
    low = predict_paths(paths(cover=["clutter"], frequency_hz=433e6), Surroundings())
    expected = height_gain_loss_db(0.4, 433e6, kind="Suburban", clutter_height_m=10.0)
    assert low.cover_db[0] == pytest.approx(float(expected))
    assert low.at(0).warnings == ()  # clause 3.1 holds from 30 MHz


def test_between_points_typed_far_apart_the_earth_stands_up():
    """114 km of sea in five points: the bulge of d1 d2 / (2 k a) is least clear in the middle."""
    typed = np.array([0.0, 1e3, 2e3, 112e3, 114e3])
    d, h = fine_profile(typed, np.zeros(5), np.zeros(5))
    high = {"height1_m": 250.0, "height2_m": 250.0, "frequency_hz": 868e6}
    view = path_view(d, h, **high)
    bulge = 57e3**2 / (2 * 4 / 3 * 6371e3)
    zone = math.sqrt(299_792_458 / 868e6 * 57e3 / 2)
    assert view.worst_share == pytest.approx((250 - bulge) / zone, abs=0.01)
    assert not view.clear
    assert path_view(typed, np.zeros(5), **high).clear  # what five points alone would say


def test_cover_stands_at_its_point_and_on_to_the_next_that_has_any():
    d, h = fine_profile(
        np.array([0.0, 400, 600, 800, 1000]), np.full(5, 3.0), np.array([0.0, 12, 12, 0, 0])
    )
    at = dict(zip(d.tolist(), h.tolist(), strict=True))
    assert (at[200.0], at[400.0], at[500.0], at[700.0]) == (3.0, 15.0, 15.0, 3.0)


def test_unknown_surroundings_are_refused():
    with pytest.raises(ValueError, match="must be one of"):
        Surroundings(model="crystal ball")


LINK = Link(
    height1_m=5.0, height2_m=1.0, frequency_hz=868e6, reference_dbm=16.0, threshold_dbm=-100.0
)
AROUND = Surroundings(shadowing_db=6.0)


def test_every_cell_of_a_map_is_what_its_own_path_gives():
    rows, columns = np.mgrid[0:41, 0:41]
    ridge = grid(5 + 25 * np.exp(-(((columns - 25) / 3.0) ** 2)) + 0 * rows)
    fixed = Place(lat_deg=47.49, lon_deg=-21.0)
    found = margin_map(ridge, fixed, LINK, AROUND, size=12)
    for i, j in ((1, 2), (6, 11), (10, 5)):
        end = Place(lat_deg=found.lat_deg[i], lon_deg=found.lon_deg[j])
        d, h = ridge.profile(fixed, end)
        loss = float(free_space_loss_db(d[-1], 868e6)) + float(
            delta_bullington(d, h, height1_m=5.0, height2_m=1.0, frequency_hz=868e6).loss_db
        )
        (alone,) = predict_stops(LINK, np.array([loss]), shadowing_db=6.0)
        # a map samples its paths a little differently
        assert found.share[i, j] == pytest.approx(alone.expected_share, abs=0.08)


def test_behind_a_ridge_fewer_frames_are_expected_and_progress_is_told():
    columns = np.mgrid[0:41, 0:41][1]
    ridge = grid(5 + 25 * np.exp(-(((columns - 25) / 3.0) ** 2)))
    told = []
    found = margin_map(
        ridge, Place(lat_deg=47.49, lon_deg=-21.0), LINK, AROUND, size=16, progress=told.append
    )
    middle = found.share[8]
    assert middle[-1] < middle[6]
    assert told[-1] == 1.0
    assert np.all((found.share >= 0) & (found.share <= 1))


def test_a_map_needs_its_fixed_end_on_the_terrain():
    with pytest.raises(ValueError, match="outside the terrain"):
        margin_map(grid(np.zeros((5, 5))), Place(lat_deg=10.0, lon_deg=10.0), LINK, AROUND, size=8)


def test_with_two_receivers_every_cell_takes_the_better_one():
    plain = grid(np.full((41, 41), 5.0))
    west, east = (Place(lat_deg=47.49, lon_deg=lon) for lon in (-21.0, -20.99))
    away = Place(lat_deg=40.0, lon_deg=-21.0)
    both = best_map(plain, [(west, LINK), (east, LINK), (away, LINK)], AROUND, size=8)
    each = [margin_map(plain, one, LINK, AROUND, size=8).share for one in (west, east)]
    assert both.share == pytest.approx(np.maximum(*each))
    with pytest.raises(ValueError, match="outside the terrain"):
        best_map(plain, [(away, LINK)], AROUND, size=8)


def test_many_profiles_at_once_are_what_each_is_alone():
    rolling = grid(5 + np.add.outer(np.arange(41.0), np.sin(np.arange(41.0))))
    start = Place(lat_deg=47.495, lon_deg=-20.999)
    lats, lons = [47.494, 47.488, 40.0], [-20.998, -20.985, -21.0]
    found = rolling.profiles(start, lats, lons)
    assert found[2] is None
    for one, lat, lon in zip(found[:2], lats, lons, strict=False):
        d, h = rolling.profile(start, Place(lat_deg=lat, lon_deg=lon))
        assert one[0] == pytest.approx(d)
        assert one[1] == pytest.approx(h)
        assert h[0] == pytest.approx(float(rolling.height_m(47.495, -20.999)))


@pytest.mark.parametrize(
    ("cover", "left"),
    [
        ([0, 12, 12, 0, 0], [0, 12, 12, 0, 0]),
        ([12, 12, 0, 2, 0], [0, 0, 0, 2, 0]),
        ([0, 2, 0, 8, 8], [0, 2, 0, 0, 0]),
        ([12, 12, 12, 12, 12], [0, 0, 0, 0, 0]),
    ],
)
def test_cover_that_an_end_stands_in_is_no_obstacle(cover, left):
    assert standing_clear(np.array([cover, cover], dtype=float)).tolist() == [left, left]


def test_a_map_and_a_single_path_see_the_same_cover():
    cover = np.zeros((41, 41), dtype=np.float32)
    cover[15:20, 18:24] = 12.0
    plain = grid(np.full((41, 41), 5.0))
    covered = replace(plain, cover_m=cover)
    start, end = Place(lat_deg=47.505, lon_deg=-21.0), Place(lat_deg=47.487, lon_deg=-20.978)
    d, h = covered.profile(start, end)
    assert h.max() == 17.0
    from_start = losses_from(
        covered, start, np.array([end.lat_deg]), np.array([end.lon_deg]),
        height1_m=5.0, height2_m=1.0, frequency_hz=868e6,
    )  # fmt: skip
    assert from_start[0] == pytest.approx(loss_of(d, h, 5.0, 1.0), abs=1.0)  # sampled otherwise
    with pytest.raises(ValueError, match="the shape of heights_m"):
        replace(plain, cover_m=cover[:5])


def loss_of(d, h, height1, height2, frequency=868e6, polarisation="vertical"):
    diffracted = delta_bullington(
        d, h, height1_m=height1, height2_m=height2, frequency_hz=frequency,
        polarisation=polarisation,
    ).loss_db  # fmt: skip
    return float(free_space_loss_db(d[-1], frequency)) + float(diffracted)


@pytest.mark.parametrize("polarisation", ["vertical", "horizontal"])
@pytest.mark.parametrize(
    ("height1", "height2", "frequency"), [(5, 1, 868e6), (30, 1.5, 2.4e9), (0.5, 0.2, 169e6)]
)
@pytest.mark.parametrize("relief", [0.0, 3.0, 60.0])
def test_the_compiled_loops_give_what_the_arrays_give(
    polarisation, height1, height2, frequency, relief
):
    random = np.random.default_rng(7)
    rough = grid(50 + relief * ndimage.gaussian_filter(random.standard_normal((41, 41)), 1))
    start = Place(lat_deg=47.497, lon_deg=-20.996)
    lat = random.uniform(rough.south_deg, rough.north_deg, 40)
    lon = random.uniform(rough.west_deg, rough.east_deg, 40)
    found = losses_from(
        rough, start, lat, lon, height1_m=height1, height2_m=height2, frequency_hz=frequency,
        polarisation=polarisation,
    )  # fmt: skip
    away = distances_m(start, lat, lon)
    for i in range(len(lat)):
        count = int(np.clip(np.ceil(away[i] / rough.cell_m) + 1, 8, 400))
        along = np.linspace(0, 1, count)
        ground = rough.height_m(
            start.lat_deg + along * (lat[i] - start.lat_deg),
            start.lon_deg + along * (lon[i] - start.lon_deg),
        )
        wanted = loss_of(away[i] * along, ground, height1, height2, frequency, polarisation)
        assert found[i] == pytest.approx(wanted, abs=1e-6)


def test_a_path_over_an_unknown_height_has_no_loss_and_the_others_do():
    holed = np.full((41, 41), 5.0)
    holed[20, 25] = np.nan
    start = Place(lat_deg=47.49, lon_deg=-21.0)
    lats, lons = np.array([47.49, 47.505]), np.array([-20.965, -20.999])
    found = losses_from(
        grid(holed), start, lats, lons, height1_m=5.0, height2_m=1.0, frequency_hz=868e6
    )
    assert np.isnan(found).tolist() == [True, False]
