"""The simple fits, and the ranges people read off their stops."""

import numpy as np
import pytest

from inchmark.cli.reference.path_fit import fit_cut_normal, fit_straight_line
from inchmark.core.stop_rules import StopCount, stop_ranges


def test_a_straight_line_needs_three_points_at_two_distances():
    with pytest.raises(ValueError, match="3 points"):
        fit_straight_line(np.array([10.0, 20.0]), np.array([60.0, 70.0]))
    with pytest.raises(ValueError, match="2 distances"):
        fit_straight_line(np.array([10.0, 10, 10]), np.array([60.0, 61, 62]))


def test_a_noise_free_line_is_found_exactly():
    d = np.array([10.0, 40, 160, 640])
    fit = fit_straight_line(d, 31 + 30 * np.log10(d))
    assert (fit.exponent, fit.loss_at_reference_db) == pytest.approx((3.0, 31.0))
    assert fit.r_squared == pytest.approx(1.0)


def test_the_mean_of_survivors_reads_too_high_and_the_censored_fit_does_not():
    random = np.random.default_rng(8)
    levels = random.normal(-101, 4, 4000)
    seen = levels[levels >= -100]
    fit = fit_cut_normal(seen, -100, censored=len(levels) - len(seen))
    assert fit.sample_mean_dbm > -98.5
    assert fit.mean_dbm == pytest.approx(-101, abs=0.4)


def test_a_truncated_sample_without_a_finite_maximum_says_so():
    flat = np.array([-99.9, -99.8, -99.7, -80.0])
    fit = fit_cut_normal(flat, -100, censored=None)
    assert not fit.finite
    assert fit.mean_dbm is None
    with pytest.raises(ValueError, match="at least 2"):
        fit_cut_normal(np.array([-90.0]), -100, censored=None)


def stops(*rows):
    return [
        StopCount(distance_m=d, sent=n, heard=k, tau=1.0, in_hand_db=hand) for d, k, n, hand in rows
    ]


def test_a_lucky_frame_makes_the_last_heard_and_nothing_else():
    found = stop_ranges(
        stops((50, 100, 100, 30), (100, 98, 100, 18), (200, 60, 100, 3), (400, 1, 100, -6))
    )
    assert found.last_heard == 400
    assert found.contiguous == 100
    assert found.shown == 100
    assert found.in_hand == 100


def test_a_bad_near_stop_ends_the_walk_outwards():
    found = stop_ranges(stops((50, 50, 100, 5), (100, 100, 100, 30)))
    assert found.contiguous is None
    assert found.last_heard == 100


def test_too_few_frames_can_neither_show_nor_refute():
    found = stop_ranges(stops((50, 10, 10, None), (100, 9, 10, None)))
    assert found.shown is None
    assert found.not_refuted == 100
    assert found.in_hand is None


def test_nothing_heard_anywhere_has_no_range():
    found = stop_ranges(stops((50, 0, 10, None)))
    assert (found.last_heard, found.contiguous) == (None, None)
