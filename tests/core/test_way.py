"""Tracks: places of stops, bins of a walk that never stands, and clocks that differ."""

import numpy as np
import pytest

from inchmark.core.gathering.bins import Cutting, cut_into_bins
from inchmark.core.gathering.shift import clock_shift
from inchmark.core.gathering.timeline import Stay
from inchmark.core.gathering.way import FIX_SD_M, Point, Way
from inchmark.core.geodesy import Place, destination

FIXED = Place(lat_deg=54.2, lon_deg=7.9)


def track(metres_at, seconds, *, noise_m=0.0, seed=1):
    dice = np.random.default_rng(seed)
    points = []
    for t in range(seconds):
        place = destination(FIXED, 70.0, max(metres_at(t) + noise_m * dice.standard_normal(), 0.1))
        points.append(Point(1000.0 + t, place.lat_deg, place.lon_deg))
    return points


def driving(t):
    return 20.0 + 2.0 * t


def test_a_stop_is_measured_from_the_points_of_its_stays():
    points = track(lambda t: 100.0 if t < 120 else 400.0, 240, noise_m=4.0)
    stays = [Stay(1000, 1120, "1"), Stay(1120, 1240, "2"), Stay(9000, 9100, "3")]
    one, two = Way(points, FIXED).places(stays)
    assert (one.stop, one.points, two.stop) == ("1", 120, "2")
    assert one.distance_m == pytest.approx(100.0, abs=1.5)
    assert one.plus_minus_m == pytest.approx(8.0, abs=1.5)
    still = Way(track(lambda _: 50.0, 60), FIXED).places([Stay(1000, 1060, "1")])[0]
    assert still.plus_minus_m == 2 * FIX_SD_M


def test_both_ends_may_move():
    carried = track(driving, 100)
    apart = Way(carried, carried)
    assert np.allclose(apart.metres, 0.0, atol=1e-6)
    boat = [Point(p.time_s, FIXED.lat_deg, FIXED.lon_deg) for p in carried[10:50]]
    way = Way(carried, boat)
    assert np.isnan(way.metres[0])
    assert way.metres_at(np.array([1030.0]))[0] == pytest.approx(driving(30), abs=0.1)


def test_a_drive_is_cut_by_frames_or_by_metres():
    way = Way(track(driving, 300), FIXED)
    times = 1000.0 + np.arange(0, 290, 0.5)
    by_frames = cut_into_bins(times, way, Cutting(frames=100))
    assert [b.frames for b in by_frames] == [100, 100, 100, 100, 100, 80]
    assert by_frames[0].distance_m == pytest.approx(driving(24.75), abs=0.5)
    assert by_frames[0].speed_m_per_s == pytest.approx(2.0, abs=0.05)
    spread = np.std(driving(np.arange(0, 50, 0.5)), ddof=1)
    age = 2.0 / np.sqrt(12)
    expected = 2 * np.sqrt(spread**2 + age**2 + FIX_SD_M**2)
    assert by_frames[0].plus_minus_m == pytest.approx(expected, rel=0.02)
    by_metres = cut_into_bins(times, way, Cutting(metres=49.5))
    assert {b.frames for b in by_metres[:-1]} == {50}
    assert by_metres[1].from_s == by_metres[0].to_s
    assert by_metres[0].stay.stop == "bin 1"


def test_bins_with_too_few_frames_go_to_the_one_before():
    way = Way(track(driving, 300), FIXED)
    times = np.concatenate([1000.0 + np.arange(0, 40, 0.5), 1000.0 + np.arange(60, 280, 30.0)])
    bins = cut_into_bins(times, way, Cutting(metres=20.0))
    assert sum(b.frames for b in bins) == times.size
    assert all(b.frames >= 5 for b in bins)


@pytest.mark.parametrize(
    "wrong", [{}, {"frames": 10, "metres": 5.0}, {"frames": 2}, {"metres": 0.0}]
)
def test_a_cutting_that_cuts_nothing_is_refused(wrong):
    with pytest.raises(ValueError, match=r"cut by|needs"):
        Cutting(**wrong)


def test_frames_off_the_track_are_told_of():
    way = Way(track(driving, 30), FIXED)
    with pytest.raises(ValueError, match="does not overlap"):
        cut_into_bins(np.array([9e5] * 20), way, Cutting(frames=10))
    with pytest.raises(ValueError, match="two points"):
        Way(track(driving, 1), FIXED)


@pytest.mark.parametrize("off_s", [-120.0, 0.0, 65.0])
def test_the_clock_is_found_from_levels_within_its_limits(off_s):
    def there_and_back(t):
        return 30.0 + 3.0 * (t if t < 200 else 400 - t)

    way = Way(track(there_and_back, 400), FIXED)
    dice = np.random.default_rng(4)
    heard = 1000.0 + np.arange(20, 380, 1.0)
    levels = -30 - 30 * np.log10([there_and_back(t - 1000) for t in heard])
    levels += 4 * dice.standard_normal(heard.size)
    found = clock_shift(heard - off_s, levels, way)
    assert found.low_s <= off_s <= found.high_s
    assert found.high_s - found.low_s <= 120
    assert found.better_db is None or found.better_db >= 0


def test_levels_that_tell_nothing_of_time_give_no_clock():
    way = Way(track(lambda _: 100.0, 400), FIXED)
    heard = 1000.0 + np.arange(0, 300, 1.0)
    assert clock_shift(heard, np.full(heard.size, -80.0), way) is None
    assert clock_shift(heard[:10], np.full(10, -80.0), way) is None


def test_what_a_receiver_says_of_its_fix_moves_the_plus_or_minus():
    def place(**quality):
        points = [p._replace(**quality) for p in track(lambda _: 200.0, 60)]
        return Way(points, FIXED).places([Stay(1000, 1060, "1")])[0]

    plain = place(hdop=1.0, satellites=9.0, quality=1.0)
    assert plain.plus_minus_m == pytest.approx(5.0, abs=0.1)
    assert (plain.satellites, plain.hdop) == (9.0, 1.0)
    assert place(hdop=2.0).plus_minus_m == pytest.approx(10.0, abs=0.1)
    assert place(satellites=3.0).plus_minus_m == pytest.approx(15.0, abs=0.1)
    assert place(quality=2.0, age_s=4.0).plus_minus_m == pytest.approx(3.0, abs=0.1)
    assert place(quality=2.0, age_s=90.0).plus_minus_m == pytest.approx(5.0, abs=0.1)
    assert place(quality=6.0).plus_minus_m == pytest.approx(20.0, abs=0.1)
    assert place().satellites is None


def test_of_two_words_for_one_moment_the_more_doubtful_counts():
    """A receiver prints RMC without dilution and GGA with it, at the same second."""
    good = track(lambda _: 200.0, 60)
    both = [*good, *(p._replace(hdop=4.0) for p in good)]
    found = Way(both, FIXED).places([Stay(1000, 1060, "1")])[0]
    assert found.plus_minus_m == pytest.approx(20.0, abs=0.1)
    assert found.points == Way(good, FIXED).places([Stay(1000, 1060, "1")])[0].points
