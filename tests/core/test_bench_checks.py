"""Centring, close range and current traces."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from inchmark.core.bench.centring import OffsetStep, centre
from inchmark.core.bench.close_range import (
    CAME_RIGHT,
    SAME,
    TREE,
    CloseReading,
    learned_window,
    next_question,
    predicted_window,
    verdict,
)
from inchmark.core.bench.current_trace import (
    RECEIVE,
    SLEEP,
    TRANSMIT,
    WAKE,
    Corrections,
    read_trace,
)
from inchmark.core.bench.hidden_levels import likeliest
from inchmark.core.budget import End, EndName


def steps(*pairs):
    return [OffsetStep(offset_hz=f * 1e3, sent=20, heard=k) for f, k in pairs]


EDGES = steps((-40, 0), (-30, 12), (-20, 20), (0, 20), (20, 20), (30, 20), (40, 15), (50, 2))


def test_the_middle_lies_between_the_two_edges():
    found = centre(EDGES, 868e6)
    assert (found.low_held_hz, found.high_held_hz) == (-30e3, 40e3)
    assert found.middle_hz == pytest.approx(5e3, abs=5e3)
    assert found.half_width_hz == min(found.middle_hz + 30e3, 40e3 - found.middle_hz)
    assert found.ppm == pytest.approx(found.middle_hz / 868, rel=1e-9)


def test_the_margin_is_small_when_crystals_may_use_it_up():
    found = centre(EDGES, 868e6)
    assert found.margin_hz(10.0) == pytest.approx(found.half_width_hz - 8680)
    assert not found.small_margin(20.0)
    assert found.small_margin(40.0)


@given(st.integers(-20, 20), st.integers(2, 15))
def test_a_link_that_holds_around_an_offset_is_centred_within_a_step(middle, half):
    tried = [
        OffsetStep(offset_hz=1e3 * f, sent=10, heard=10 * (abs(f - middle) <= half))
        for f in range(-40, 41)
    ]
    assert abs(centre(tried, 868e6).middle_hz - 1e3 * middle) <= 1e3


@pytest.mark.parametrize(
    ("tried", "words"),
    [
        (steps((-10, 0), (0, 3), (10, 0)), "held at no offset"),
        (steps((-10, 20), (0, 20), (10, 0)), "below edge was not reached"),
        (steps((-10, 0), (0, 20), (10, 20)), "above edge was not reached"),
        (steps((-10, 0), (0, 20), (5, 2), (10, 20), (20, 0)), "on both sides"),
    ],
)
def test_a_centring_that_is_not_done_says_what_to_do(tried, words):
    with pytest.raises(ValueError, match=words):
        centre(tried, 868e6)


def test_more_heard_than_sent_is_refused():
    with pytest.raises(ValueError, match="heard"):
        OffsetStep(offset_hz=0.0, sent=10, heard=11)


ENDS = [
    End(name=name, transmit_power_dbm=0.0, threshold_dbm=-120.0, antenna_gain_dbi=2.15)
    for name in (EndName.CARRIED, EndName.FIXED)
]


def test_the_window_lies_around_what_free_space_gives():
    """Free space at 3 m, 868 MHz: 40.76 dB (ITU-R P.525)."""
    window = predicted_window(*ENDS, distance_m=3.0, frequency_hz=868e6)
    assert (window.low_dbm + window.high_dbm) / 2 == pytest.approx(4.3 - 40.76, abs=0.01)
    assert window.caution == ""


def test_the_near_field_is_pointed_out():
    assert "near field" in predicted_window(*ENDS, distance_m=0.2, frequency_hz=868e6).caution
    far = predicted_window(*ENDS, distance_m=1.0, frequency_hz=2.4e9, size_m=0.5)
    assert "near field" in far.caution


def test_three_good_units_teach_a_window_and_two_do_not():
    """Prediction interval of one more: mean +- t(0.975, 2) s sqrt(1 + 1/3), t = 4.303 (tables)."""
    assert learned_window([-44.0, -45.0]) is None
    window = learned_window([-44.0, -46.0, -42.0])
    assert window is not None
    assert window.high_dbm - window.low_dbm == pytest.approx(
        2 * 4.3027 * 2 * (4 / 3) ** 0.5, abs=0.01
    )
    assert window.holds(-44.0)
    assert not window.holds(-60.0)


def test_crossing_should_cost_ten_decibels():
    assert CloseReading(parallel_dbm=-44, crossed_dbm=-58).crossing_costs_db == 14
    assert not CloseReading(parallel_dbm=-44, crossed_dbm=-58).crossing_odd
    assert CloseReading(parallel_dbm=-44, crossed_dbm=-47).crossing_odd
    assert not CloseReading(parallel_dbm=-44).crossing_odd


@pytest.mark.parametrize("at", range(len(TREE)))
def test_the_tree_points_to_what_was_swapped_when_it_came_right(at):
    answers = {one.key: SAME for one in TREE[:at]}
    assert next_question(answers) == TREE[at]
    assert verdict(answers) == ""
    answers[TREE[at].key] = CAME_RIGHT
    assert next_question(answers) is None
    assert TREE[at].points_to in verdict(answers)


def test_when_no_swap_helps_the_window_is_in_doubt():
    assert "window itself" in verdict({one.key: SAME for one in TREE})


MESSAGE = ((0.5, 2e-6), (0.010, 3e-3), (0.050, 40e-3), (0.2, 1e-3), (0.030, 11e-3), (0.5, 2e-6))
STEP_S = 1e-4


def trace(messages=3, noise=0.03, seed=1, parts=MESSAGE):
    rng = np.random.default_rng(seed)
    flat = [np.full(round(s / STEP_S), a) for _ in range(messages) for s, a in parts]
    current = np.concatenate(flat)
    return np.arange(len(current)) * STEP_S, current * (
        1 + noise * rng.standard_normal(len(current))
    )


def test_a_trace_falls_into_its_states_with_their_charge():
    found = read_trace(*trace())
    assert [one.state for one in found.states] == [SLEEP, WAKE, RECEIVE, TRANSMIT]
    assert found.messages == 3
    charge = sum(s * a for s, a in MESSAGE[1:5])
    assert found.charge_c == pytest.approx(charge, rel=0.01)
    assert found.sleep_a == pytest.approx(2e-6, rel=0.02)
    transmit = found.state(TRANSMIT)
    assert transmit.time_s / 3 == pytest.approx(0.050, rel=0.01)
    assert transmit.current_a == pytest.approx(40e-3, rel=0.01)


def test_the_charge_of_all_stretches_is_the_charge_of_the_trace():
    time_s, current = trace(noise=0.1)
    found = read_trace(time_s, current)
    assert sum(run.charge_c for run in found.runs) == pytest.approx(current.sum() * STEP_S)
    assert sum(run.duration_s for run in found.runs) == pytest.approx(found.duration_s)


def test_the_average_is_charge_over_period_plus_sleep():
    load = read_trace(*trace(noise=0.0)).load(900.0)
    charge = sum(s * a for s, a in MESSAGE[1:5])
    assert load.average_current_a == pytest.approx((charge + 2e-6 * (900 - 0.29)) / 900, rel=1e-6)


def test_one_message_has_no_spread_and_two_have():
    assert read_trace(*trace(messages=1)).charge_half_width_c is None
    assert read_trace(*trace(messages=2)).charge_half_width_c is not None


def test_known_currents_name_the_levels():
    known = {SLEEP: 2e-6, WAKE: 1e-3, RECEIVE: 11e-3, TRANSMIT: 40e-3}
    parts = ((0.5, 2e-6), (0.05, 11e-3), (0.01, 40e-3), (0.5, 2e-6))
    found = read_trace(*trace(parts=parts), known)
    assert found.state(WAKE) is None
    assert found.state(RECEIVE).time_s / 3 == pytest.approx(0.05, rel=0.01)


def wrong(change):
    time_s, current = trace(messages=1)
    change(time_s, current)
    return time_s, current


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda t, i: i.__setitem__(7, -3e-3), "sample 8 is -3 mA, under zero"),
        (lambda t, i: i.__setitem__(7, np.nan), "numbers only"),
        (lambda t, i: t.__setitem__(7, 0.0), "does not ascend after sample 7"),
        (lambda t, i: i.__setitem__(slice(None), 1e-3), "stays at one level"),
        (lambda t, i: i.__setitem__(slice(None), 0.0), "no current flows"),
    ],
)
def test_a_trace_that_says_nothing_says_why(change, words):
    with pytest.raises(ValueError, match=words):
        read_trace(*wrong(change))


def test_too_few_samples_are_no_trace():
    with pytest.raises(ValueError, match="10 samples"):
        read_trace(np.arange(5.0), np.ones(5))


@pytest.mark.parametrize("share", [0.1, 0.25, 0.5, 1.0])
def test_sleep_is_found_under_a_meter_as_noisy_as_the_sleep_current(share):
    """3 microampere of sleep, 40 mA for 50 ms: the mean of the trace is the average of the load."""
    random, step_s = np.random.default_rng(7), 1e-4
    shape = ((2.0, 3e-6), (0.01, 1e-3), (0.05, 0.04), (0.02, 5e-3), (3.0, 3e-6)) * 3
    current = np.concatenate([np.full(round(s / step_s), a) for s, a in shape])
    noisy = current + share * 3e-6 * random.standard_normal(len(current))
    found = read_trace(np.arange(len(noisy)) * step_s, noisy)
    assert found.state("sleep").time_s == pytest.approx(15.0, abs=0.01)
    assert found.sleep_a == pytest.approx(3e-6, rel=0.03)
    assert found.load(5.08).average_current_a == pytest.approx(current.mean(), rel=1e-3)


@pytest.mark.parametrize(("noise_a", "hidden"), [(2e-5, 0.0), (2e-4, 1e-3)])
def test_a_wake_under_the_meters_noise_is_said_to_hide_in_sleep(noise_a, hidden):
    """1 mA stands out of 20 microampere of noise, and hides under 6 times 200."""
    random, step_s = np.random.default_rng(5), 1e-4
    shape = ((0.5, 2e-6), (0.2, 1e-3), (0.05, 0.04), (0.2, 1e-3), (0.5, 2e-6)) * 3
    current = np.concatenate([np.full(round(s / step_s), a) for s, a in shape])
    current = current + noise_a * random.standard_normal(len(current))
    found = read_trace(np.arange(len(current)) * step_s, current)
    assert found.hidden_a == pytest.approx(hidden, rel=0.02)
    assert (found.sleep_a < 1e-5) == (hidden == 0.0)


def test_a_few_samples_of_a_noisy_level_under_zero_are_no_turned_probe():
    time_s, clean = trace(messages=4, noise=0.0)
    clean[len(clean) // 2] = -0.0005
    assert read_trace(time_s, clean).messages == 4


@pytest.mark.parametrize("offset_a", [-4e-6, 0.0, 5e-6])
def test_states_survive_a_noisy_meter_with_an_offset(offset_a):
    """A quarter of each level as noise, and a meter that reads beside: times to a hundredth."""
    random = np.random.default_rng(11)
    time_s, clean = trace(messages=4, noise=0.0)
    noisy = clean * (1 + 0.25 * random.standard_normal(len(clean))) + offset_a
    found = read_trace(time_s, noisy, corrections=Corrections(offset_a=offset_a))
    assert found.messages == 4
    assert found.state(TRANSMIT).time_s / 4 == pytest.approx(0.050, rel=0.01)
    assert found.state(TRANSMIT).runs == 4
    assert found.state(RECEIVE).time_s / 4 == pytest.approx(0.030, rel=0.02)
    assert found.sleep_a == pytest.approx(2e-6, rel=0.05)


def test_flicker_over_a_boundary_is_one_stretch():
    """Levels 1.5 noise apart at the boundary: without the changes' cost each crossing were a run."""
    random = np.random.default_rng(3)
    truth = np.repeat([0, 1, 0, 1, 0], [400, 300, 500, 200, 400])
    current = np.where(truth == 1, 2e-3, 1e-3) + 0.4e-3 * random.standard_normal(truth.size)
    level = (current > 1.5e-3).astype(np.int64)
    assert np.count_nonzero(np.diff(level)) > 100
    found = likeliest(current, level, 2, 0.4e-3)
    assert np.count_nonzero(np.diff(found)) == 4
    assert np.mean(found == truth) > 0.995


def test_a_person_may_move_boundaries_and_name_levels():
    time_s, current = trace()
    found = read_trace(time_s, current)
    assert found.names == (SLEEP, WAKE, WAKE, RECEIVE, TRANSMIT)
    edges = (*found.edges_a[:1], *found.edges_a[2:])  # the two of wake as one
    names = (SLEEP, RECEIVE, WAKE, TRANSMIT)
    again = read_trace(time_s, current, corrections=Corrections(edges_a=edges, names=names))
    assert again.names == names
    assert again.state(RECEIVE).time_s / 3 == pytest.approx(0.21, rel=0.01)
    assert again.charge_c == pytest.approx(found.charge_c, rel=1e-3)
    with pytest.raises(ValueError, match="ascend"):
        Corrections(edges_a=(1e-3, 1e-4))
    with pytest.raises(ValueError, match="no state"):
        Corrections(names=("asleep",))
    with pytest.raises(ValueError, match="2 names are given for 4 levels"):
        read_trace(time_s, current, corrections=Corrections(edges_a=edges, names=names[:2]))
