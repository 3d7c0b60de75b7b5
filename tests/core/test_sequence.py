"""Reading a counter: gaps, wraps, resets, duplicates, late frames, silence."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from inchmark.core.reception.sequence import (
    MAX_GAP,
    beacon_interval_s,
    expected_sent,
    read_sequence,
)


def read(*values, **options):
    return read_sequence(np.array(values, dtype=np.int64), **options)


def test_a_gap_is_frames_lost():
    one = read(5, 6, 9, 10)
    assert (one.sent, one.missing, one.gaps) == (6, 2, ((2, 2),))


@pytest.mark.parametrize("bits", [8, 16, 32])
def test_a_wrap_goes_on_counting(bits):
    top = 2**bits
    one = read(top - 2, top - 1, 0, 1, 2)
    assert (one.sent, one.wraps, one.resets) == (5, 1, 0)


def test_frames_lost_across_a_wrap_are_counted():
    assert read(250, 251, 3, 4).sent == 11


def test_a_wrap_is_not_seen_where_the_counter_is_wider():
    one = read(250, 251, 3, 4, counter_bits=16)
    assert (one.wraps, one.resets) == (0, 1)


def test_three_wraps_in_one_visit():
    one = read(*(i % 256 for i in range(250, 250 + 520)))
    assert (one.sent, one.wraps, one.missing) == (520, 3, 0)


def test_a_restart_counts_on_from_where_it_stood():
    one = read(100, 101, 102, 0, 1, 2)
    assert (one.sent, one.resets, one.missing) == (6, 1, 0)


def test_times_and_the_beacon_interval_tell_what_a_restart_swallowed():
    times = np.array([0.0, 2.0, 4.0, 20.0, 22.0])
    one = read(100, 101, 102, 0, 1, times_s=times, interval_s=2.0)
    assert one.sent == 12  # 22 s at one frame in 2 s, both ends counted


def test_a_frame_heard_twice_counts_once():
    one = read(7, 8, 8, 9)
    assert (one.sent, one.duplicates) == (3, 1)
    assert list(one.index) == [0, 1, 1, 2]


def test_a_duplicate_from_far_back_is_no_restart():
    one = read(*range(100, 151), 110, *range(151, 160))
    assert (one.sent, one.duplicates, one.resets, one.missing) == (60, 1, 0, 0)


def test_a_restart_that_repeats_numbers_is_no_run_of_duplicates():
    one = read(*range(30), *range(30))
    assert (one.sent, one.resets, one.duplicates) == (60, 1, 0)


def test_a_late_frame_takes_its_place():
    one = read(7, 9, 8, 10)
    assert (one.sent, one.out_of_order, one.resets, one.missing) == (4, 1, 0, 0)


def test_a_late_frame_sent_before_a_wrap_is_not_a_second_wrap():
    one = read(253, 255, 0, 254, 1)
    assert (one.sent, one.wraps, one.out_of_order) == (5, 1, 1)


def test_a_first_frame_that_was_late_moves_the_start_back():
    one = read(8, 7, 9)
    assert (one.sent, list(one.index)) == (3, [1, 0, 2])


def test_a_damaged_counter_is_not_millions_of_losses():
    one = read(5, 6, 5 + MAX_GAP * 10, 5 + MAX_GAP * 10 + 1)
    assert (one.sent, one.resets) == (4, 1)


def test_no_frames_are_no_sequence_and_negatives_are_refused():
    assert read().sent == 0
    with pytest.raises(ValueError, match="negative"):
        read(-1)


@given(st.integers(0, 200), st.lists(st.integers(1, 30), min_size=1, max_size=60))
def test_an_unbroken_counter_counts_exactly_what_was_sent(start, steps):
    values = np.cumsum([start, *steps])
    one = read(*values)
    assert one.sent == values[-1] - values[0] + 1
    assert one.missing == one.sent - len(values)
    assert (one.resets, one.wraps, one.duplicates) == (0, 0, 0)


@given(st.lists(st.integers(0, 255), min_size=1, max_size=80))
def test_any_counter_at_all_is_read_and_each_frame_counts_once(values):
    one = read(*values)
    assert one.index.min() == 0
    assert one.sent == one.index.max() + 1
    assert one.duplicates == len(values) - len(set(one.index))
    assert one.missing == one.sent - len(set(one.index))


def test_silence_is_the_frames_a_beacon_would_have_sent():
    assert expected_sent(duration_s=60, interval_s=2) == 31
    assert expected_sent(duration_s=0, interval_s=2) == 1
    with pytest.raises(ValueError, match="interval_s"):
        expected_sent(duration_s=60, interval_s=0)


def test_the_beacon_interval_is_read_from_times_across_gaps():
    seq, times = np.array([0, 1, 3, 4, 8]), np.array([0.0, 2, 6, 8, 16])
    assert beacon_interval_s(seq, times) == 2.0
    assert beacon_interval_s(seq, np.full(5, np.nan)) is None
