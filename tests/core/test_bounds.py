"""Values right at a bound, and just past it: what breaks first when a comparison is mistyped."""

import numpy as np
import pytest

from inchmark.core.airtime.duty_cycle import messages_per_hour, min_interval_s
from inchmark.core.antenna.trim import Trial, next_trial
from inchmark.core.bands import band_of
from inchmark.core.expected_reach import FARTHEST_M, NEAREST_M, expected_reach
from inchmark.core.geodesy import Place
from inchmark.core.limits import EIRP, ERP, Check, Emission, Limit, checks
from inchmark.core.link import Link
from inchmark.core.margin_map import best_map, margin_map
from inchmark.core.planning.design import order_of_work
from inchmark.core.planning.timetable import Pace, frame_interval_s, timetable
from inchmark.core.prediction import Surroundings
from inchmark.core.reception import bursts
from inchmark.core.reception.sequence import (
    MAX_GAP,
    REORDER_WINDOW,
    beacon_interval_s,
    expected_sent,
    read_sequence,
)
from inchmark.core.terrain import TerrainGrid
from inchmark.core.threshold import HALF, Sensitivity, keep_for_rule_db


def read(*values, **options):
    return read_sequence(np.array(values, dtype=np.int64), **options)


@pytest.mark.parametrize(
    ("values", "wraps", "resets"),
    [
        ((191, 192, 0, 1), 1, 0),  # leaves the top quarter of 8 bits
        ((190, 191, 0, 1), 0, 1),  # does not
        ((250, 251, 63, 64), 1, 0),  # enters the bottom quarter
        ((250, 251, 64, 65), 0, 1),  # does not: near the top to anywhere is no wrap
        ((250, 251, 130, 131), 0, 1),
        ((255, 256, 0, 1), 0, 1),  # a counter that passed 255 has more than 8 bits
    ],
)
def test_a_fall_is_a_wrap_only_from_the_top_quarter_to_the_bottom_one(values, wraps, resets):
    one = read(*values)
    assert (one.wraps, one.resets) == (wraps, resets)


def test_a_jump_of_the_longest_gap_is_losses_and_one_more_is_a_reset():
    # the doubled first frame takes the reading off its shortcut for unbroken counters
    for head in ((5,), (5, 5)):
        longest = read(*head, 5 + MAX_GAP)
        assert (longest.resets, longest.missing) == (0, MAX_GAP - 1)
        longer = read(*head, 6 + MAX_GAP)
        assert (longer.resets, longer.sent) == (1, 2)


def test_a_restart_never_swallows_more_than_the_longest_gap_nor_less_than_one_step():
    years = read(100, 101, 0, times_s=np.array([0.0, 2.0, 1e9]), interval_s=2.0)
    assert (years.resets, years.sent) == (1, 2 + MAX_GAP)
    backwards = read(100, 101, 0, times_s=np.array([0.0, 2.0, -50.0]), interval_s=2.0)
    assert (backwards.resets, backwards.sent) == (1, 3)
    no_time = read(100, 101, 0, times_s=np.array([0.0, np.nan, 20.0]), interval_s=2.0)
    assert no_time.sent == 12  # from the last frame whose time is known


def test_a_restart_whose_times_are_not_known_swallows_one_step():
    unknown = {"times_s": np.array([0.0, 2.0, np.nan]), "interval_s": 2.0}
    assert read(100, 101, 0, **unknown).sent == 3  # failed on the missing time once
    late = {"times_s": np.array([np.nan, np.nan, 20.0]), "interval_s": 2.0}
    assert read(100, 101, 0, **late).sent == 3
    assert read(100, 101, 0, times_s=np.array([0.0, 2.0, 20.0])).sent == 3
    assert read(100, 101, 0, interval_s=2.0).sent == 3


def test_after_a_wrap_falls_and_strays_are_told_from_where_the_counter_stands():
    middle = read(250, 4, 100, 0, 1)  # from 100 to nothing is a restart, not another wrap
    assert (middle.wraps, middle.resets) == (1, 1)
    stray = read(250, 4, 120, 60, 121)
    assert (stray.wraps, stray.resets, stray.out_of_order) == (1, 0, 1)


def test_a_jump_ahead_is_no_late_frame_of_before_a_wrap_that_never_was():
    none = read(3, 5, 250)
    assert (none.sent, none.out_of_order) == (248, 0)
    wider = read(65_530, 2, 250)  # a wrap of 16 bits says nothing of 8
    assert (wider.sent, wider.out_of_order) == (257, 0)


def test_a_step_back_of_the_window_is_a_late_frame_and_one_more_is_a_reset():
    at_edge = read(100, 120, 120 - REORDER_WINDOW)
    assert (at_edge.out_of_order, at_edge.resets, at_edge.sent) == (1, 0, 21)
    past = read(100, 120, 119 - REORDER_WINDOW)
    assert (past.out_of_order, past.resets, past.sent) == (0, 1, 22)


def test_a_stray_is_told_from_a_restart_by_where_the_counter_goes_on():
    stray = read(100, 120, 50, 121 - REORDER_WINDOW)
    assert (stray.resets, stray.out_of_order) == (0, 2)
    restart = read(100, 120, 50, 120 - REORDER_WINDOW)
    assert restart.resets == 1


def test_a_frame_of_before_a_wrap_is_late_inside_the_window_only():
    inside = read(250, 4, 260 - REORDER_WINDOW)
    assert (inside.wraps, inside.out_of_order, inside.resets) == (1, 1, 0)
    assert inside.sent == 17  # from 244 to 260
    outside = read(250, 4, 259 - REORDER_WINDOW)
    assert (outside.out_of_order, outside.resets) == (0, 0)
    assert outside.sent == 250  # 243 of the next round


def test_a_number_seen_before_a_restart_may_be_sent_again_after_it():
    one = read(100, 101, 102, 0, 1, 1)
    assert (one.sent, one.duplicates, one.resets) == (5, 1, 1)


def test_zero_is_a_counter_value_like_any_other():
    assert read(0, 1).sent == 2
    assert expected_sent(duration_s=6, interval_s=2) == 4
    assert expected_sent(duration_s=5.999, interval_s=2) == 3
    with pytest.raises(ValueError, match="duration_s"):
        expected_sent(duration_s=-0.001, interval_s=2)


def test_the_beacon_interval_needs_three_short_steps_that_take_time():
    assert beacon_interval_s(np.array([0, 1, 2]), np.array([0.0, 2, 4])) is None
    assert beacon_interval_s(np.array([0, 1, 2, 3]), np.array([0.0, 2, 4, 6])) == 2.0
    # a step of the window or longer may hold a restart, a step without time none at all
    long = np.array([0, 1, 2, 3, 3 + REORDER_WINDOW])
    assert beacon_interval_s(long, np.array([0.0, 2, 4, 6, 6000])) == 2.0
    assert beacon_interval_s(np.array([0, 1, 2, 3]), np.array([0.0, 2, 4, 4])) is None
    assert beacon_interval_s(np.array([0, 1, 2, 2 + REORDER_WINDOW]), np.arange(4.0)) is None
    doubled = beacon_interval_s(np.array([0, 1, 1, 2, 3]), np.array([0.0, 2, 3, 4, 6]))
    assert doubled == 2.0


def test_two_degrees_of_freedom_are_the_least_a_loss_interval_takes():
    """t(0.975) of 2 degrees of freedom is 4.303 (printed t tables); Wilson 1927 around one half."""
    z, n = 4.302653, 2.0
    half = z / (1 + z * z / n) * np.sqrt(0.25 / n + z * z / (4 * n * n))
    found = bursts.loss_interval(2, 4, tau=2.0)
    assert (found.low, found.high) == pytest.approx((0.5 - half, 0.5 + half), abs=1e-6)
    # one frame worth less than one still counts as one, with the same two degrees
    single = bursts.loss_interval(0, 1, tau=9.0)
    assert single.high == pytest.approx(z * z / (1 + z * z), abs=1e-6)


def test_four_frames_have_three_degrees_of_freedom():
    """t(0.975) of 3 degrees of freedom is 3.182 (printed t tables)."""
    z, n = 3.182446, 4.0
    half = z / (1 + z * z / n) * np.sqrt(0.25 / n + z * z / (4 * n * n))
    assert bursts.loss_interval(2, 4).high == pytest.approx(0.5 + half, abs=1e-6)


def test_a_visit_counts_with_the_longer_of_its_own_runs_and_all_of_them():
    rng = np.random.default_rng(3)
    independent = (rng.random(400) < 0.5).astype(float)
    runs = np.repeat((rng.random(40) < 0.5).astype(float), 10)
    long, short = bursts.loss_runs(runs), bursts.loss_runs(independent)
    own = bursts.autocorrelation_time([long])
    assert own > 4
    assert bursts.visit_tau(long, int(runs.sum()), 1.0) == own
    assert bursts.visit_tau(long, int(runs.sum()), own + 1) == own + 1
    assert bursts.visit_tau(short, int(independent.sum()), 3.0) == 3.0
    for lost in (0, long.length):  # nothing told about runs of its own
        assert bursts.visit_tau(long, lost, 1.5) == 1.5


def test_pooled_covariances_follow_the_printed_rule():
    """Products by lag of a short sequence, done by hand: losses 1 0 0 1, mean one half."""
    one = bursts.loss_runs(np.array([1.0, 0, 0, 1]))
    assert one.products == pytest.approx([1.0, -0.25, -0.5, 0.25])
    assert (one.length, one.runs) == (4, 2)


@pytest.mark.parametrize(
    ("duty", "airtime", "messages"),
    [(0.7, 25.2, 1), (0.7, 0.4, 63), (0.3, 0.432, 25), (0.3, 0.4, 27), (10.0, 0.36, 1000)],
)
def test_messages_per_hour_come_from_an_exact_ratio(duty, airtime, messages):
    """Each is a whole ratio that floating point puts a hair below the whole number."""
    assert messages_per_hour(airtime, duty) == messages
    assert min_interval_s(airtime, duty) == pytest.approx(3600 / messages)


def test_a_duty_cycle_of_all_and_none():
    assert messages_per_hour(36.0, 100) == 100
    assert messages_per_hour(36.0, 0) == 0
    with pytest.raises(ValueError, match="duty_cycle_percent"):
        messages_per_hour(36.0, 100.1)


PACE = Pace(frames=10, set_up_s=100.0, change_s=50.0, speed_m_s=2.0)


def day(rigs, stops, passes, distances):
    return timetable(
        order_of_work(rigs, stops, passes=passes, seed=0, shuffled=False),
        distances_m=distances,
        intervals_s={"A": 1.0, "B": 2.0},
        pace=PACE,
    )


def test_every_pass_sets_up_anew_even_at_the_stop_where_the_last_one_ended():
    table = day("AB", ["1"], 2, {"1": 120.0})
    assert table.setting_up_s == 2 * (100 + 50)
    assert [entry.walked_m for entry in table.entries] == [120.0, 0.0, 0.0, 0.0]
    assert [entry.start_s for entry in table.entries] == [160.0, 220.0, 340.0, 400.0]
    assert (table.walking_s, table.back_s, table.sending_s) == (120.0, 60.0, 60.0)
    assert table.total_s == 480.0


def test_an_empty_day_takes_no_time_and_a_pace_needs_a_speed():
    assert timetable([], distances_m={}, intervals_s={}, pace=PACE).total_s == 0.0
    with pytest.raises(ValueError, match="speed_m_s"):
        Pace(frames=1, set_up_s=0, change_s=0, speed_m_s=0)


def test_a_frame_never_begins_before_the_last_one_ended():
    assert frame_interval_s(0.5, 100.0, None) == 0.5
    assert frame_interval_s(0.5, 100.0, 0.1) == 0.5
    assert frame_interval_s(0.5, 10.0, 6.0) == 6.0


ROW = {
    "region": "US",
    "low_hz": 902e6,
    "high_hz": 928e6,
    "power_dbm": 30.0,
    "duty_cycle_percent": None,
    "access": "",
    "document": "47 CFR 15.247, from memory",
    "date": "",
    "from_memory": True,
}


def limit(**changes):
    return Limit(**ROW | {"kind": "conducted", "free_gain_dbi": 6.0} | changes)


def sent(**changes):
    usual = {"frequency_hz": 915e6, "occupied_hz": 1e6, "conducted_dbm": 20.0, "gain_dbi": 2.0}
    return Emission(**usual | changes)


@pytest.mark.parametrize(
    ("gain_dbi", "counted"), [(-3.0, 20.0), (2.0, 20.0), (6.0, 20.0), (7.5, 21.5)]
)
def test_gain_below_the_free_gain_gives_no_credit(gain_dbi, counted):
    """47 CFR 15.247 (b)(4), from memory: power comes off for gain above 6 dBi; none comes on."""
    assert sent(gain_dbi=gain_dbi).power_dbm(limit()) == pytest.approx(counted)


def test_each_kind_of_limit_counts_power_its_own_way():
    assert sent().power_dbm(limit(kind=EIRP)) == 22.0
    assert sent().power_dbm(limit(kind=ERP)) == pytest.approx(22.0 - 2.15)
    assert sent(gain_dbi=3.0).power_dbm(limit(free_gain_dbi=None)) == 23.0


def test_a_hundredth_of_a_decibel_is_rounding_and_a_channel_may_touch_the_edge():
    def check(power, duty=1.0, allowed=1.0):
        held = limit(duty_cycle_percent=allowed)
        return Check(limit=held, power_dbm=power, duty_cycle_percent=duty)

    assert check(30.004).power_fits
    assert not check(30.006).power_fits
    assert check(30.0, duty=1.0).duty_fits
    assert not check(30.0, duty=1.001).duty_fits
    assert check(30.0, duty=100.0, allowed=None).fits
    row = limit(least_bandwidth_hz=1e6)
    assert row.covers(902.5e6, 1e6)
    assert row.covers(927.5e6, 1e6)
    assert not row.covers(902.4e6, 1e6)
    assert not row.covers(927.6e6, 1e6)
    assert not row.covers(915e6, 0.99e6)


def test_what_fits_comes_first_then_what_leaves_most():
    rows = [
        limit(duty_cycle_percent=0.1, power_dbm=36.0),
        limit(power_dbm=24.0),
        limit(power_dbm=30.0),
        limit(region="EU"),
    ]
    found = checks(rows, sent(), region="US", duty_cycle_percent=1.0)
    assert [one.limit.power_dbm for one in found] == [30.0, 24.0, 36.0]
    assert [one.left_db for one in found] == [10.0, 4.0, 16.0]


def test_a_cell_that_one_end_cannot_tell_takes_what_the_other_says():
    heights = np.full((41, 41), 5.0, dtype=np.float32)
    heights[18:22, 10] = np.nan  # no height is known here; paths across it are not either
    terrain = TerrainGrid(
        north_deg=47.50,
        west_deg=-21.01,
        lat_step_deg=0.0005,
        lon_step_deg=0.00075,
        heights_m=heights,
    )
    link = Link(
        height1_m=5, height2_m=1, frequency_hz=868e6, reference_dbm=16.0, threshold_dbm=-100.0
    )
    ends = [Place(lat_deg=47.49, lon_deg=lon) for lon in (-21.009, -20.985)]
    around = Surroundings(shadowing_db=6.0)
    west, east = (margin_map(terrain, one, link, around, size=24).share for one in ends)
    both = best_map(terrain, [(one, link) for one in ends], around, size=24).share
    one_knows = np.isnan(west) ^ np.isnan(east)
    assert np.any(one_knows)
    np.testing.assert_array_equal(both[one_knows], np.where(np.isnan(west), east, west)[one_knows])


def test_a_sensitivity_at_one_per_cent_lies_above_its_threshold():
    """Phi^-1(0.01) = -2.3263 (printed tables), times the receiver's edge of 1.2 dB."""
    stated = Sensitivity(dbm=-123.0, loss=0.01, source="datasheet")
    assert stated.threshold_dbm == pytest.approx(-123.0 - 1.2 * 2.3263, abs=1e-3)
    assert "half are lost 2.8 dB lower" in stated.words
    ladder = Sensitivity(dbm=-123.0, loss=HALF, source="ladder")
    assert (ladder.threshold_dbm, ladder.words) == (-123.0, "ladder")
    with pytest.raises(ValueError, match="loss"):
        Sensitivity(dbm=-123.0, loss=1.0, source="")


def test_what_the_rule_keeps_is_a_spread_within_and_one_between_places():
    """Phi^-1 of 0.9 and 0.95 are 1.2816 and 1.6449 (printed tables)."""
    found = keep_for_rule_db(loss=0.1, places=0.95, shadowing_db=6.0, frame_spread_db=3.0)
    assert found == pytest.approx(1.2816 * 3.0 + 1.6449 * 6.0, abs=1e-3)


def test_a_frequency_outside_the_common_bands_has_a_narrow_one_around_it():
    assert band_of(868.3e6).centre_hz == 866.5e6
    assert band_of(928e6).high_hz == 928e6
    assert band_of(2440e6).around().low_hz < 2400e6
    odd = band_of(315e6)
    assert (odd.low_hz, odd.high_hz) == pytest.approx((315e6 * 0.996, 315e6 * 1.004))


def test_expected_reach_is_where_the_budget_is_used_up():
    """Log-distance worked by hand: over free space at 1 m, exponent 2, ten to the n-th metres."""
    link = Link(
        height1_m=5, height2_m=1, frequency_hz=868e6, reference_dbm=16.0, threshold_dbm=-100.0
    )
    site = Surroundings(model="free_space", shadowing_db=6.0)
    found = expected_reach(link, site, loss=0.5, places=0.5)
    loss_at_1m = 20 * np.log10(4 * np.pi * 868e6 / 299_792_458)
    by_hand = 10 ** ((link.allowed_path_loss_db - loss_at_1m) / 20)
    assert found.middle_m == pytest.approx(by_hand, rel=1e-3)
    assert found.low_m == pytest.approx(by_hand / 10**0.3, rel=1e-3)
    deaf = Link(
        height1_m=5, height2_m=1, frequency_hz=868e6, reference_dbm=-150.0, threshold_dbm=-50.0
    )
    assert expected_reach(deaf, site, loss=0.1, places=0.9).high_m == NEAREST_M
    loud = Link(
        height1_m=5, height2_m=1, frequency_hz=868e6, reference_dbm=90.0, threshold_dbm=-190.0
    )
    assert expected_reach(loud, site, loss=0.1, places=0.9).low_m == FARTHEST_M


def test_a_trim_is_held_back_where_trials_cannot_tell():
    trials = [Trial(value=90, best_hz=830e6), Trial(value=86, best_hz=850e6)]
    inside = next_trial(trials, 840e6)
    assert (inside.value, inside.held_back) == (88.0, False)
    beyond = next_trial(trials, 900e6)
    assert (beyond.value, beyond.held_back) == (84.0, True)
    assert next_trial(trials[:1], 840e6) is None
    assert next_trial([], 840e6) is None


@pytest.mark.parametrize(
    ("name", "most"), [("frames", 1_000_000), ("set_up_s", 86_400), ("change_s", 86_400)]
)
def test_a_pace_has_an_end(name, most):
    assert getattr(Pace(**({"frames": 5} | {name: most})), name) == most
    with pytest.raises(ValueError, match=name):
        Pace(**({"frames": 5} | {name: most + 0.5}))
