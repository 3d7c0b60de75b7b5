"""The strip: which cells hold frames that came late, twice, through a relay or without a place."""

import numpy as np

from inchmark.core.reception.passes import Counting
from inchmark.core.reception.strip import STRIP_CELLS, StripMark
from inchmark.core.reception.visit import VisitFrames, summarise_visit


def frames(seq, times=None, relayed=None):
    n = len(seq)
    none = np.full(n, np.nan)
    return VisitFrames(
        seq=np.array(seq),
        heard=np.ones(n, dtype=bool),
        rssi_dbm=np.full(n, -90.0),
        snr_db=none,
        noise_dbm=none,
        time_s=none if times is None else np.array(times, dtype=float),
        relayed=None if relayed is None else np.array(relayed),
    )


def marks(*args, **more):
    return summarise_visit(frames(*args, **more)).strip_marks


def test_a_visit_in_order_has_no_marks():
    assert marks([0, 1, 2, 5]) == ()


def test_a_late_frame_is_marked_where_it_was_sent():
    assert marks([0, 2, 1, 3]) == (StripMark(cell=1, late=1),)


def test_a_repeated_counter_is_marked_once_more_heard():
    assert marks([0, 1, 1, 2]) == (StripMark(cell=1, again=1),)


def test_a_line_that_says_counter_and_time_again_is_marked_though_it_is_left_out():
    assert marks([0, 1, 2, 1], times=[0, 1, 2, 1]) == (StripMark(cell=1, again=1),)


def test_a_relayed_frame_is_marked_and_lost_on_the_direct_link():
    one = summarise_visit(frames([0, 1, 2], relayed=[False, True, False]))
    assert one.strip == ((1, 1), (1, 0), (1, 1))
    assert one.strip_marks == (StripMark(cell=1, relayed=1),)


def test_the_frame_after_a_counter_that_began_anew_is_marked():
    assert marks([700, 701, 3, 4]) == (StripMark(cell=2, anew=1),)


def test_marks_of_long_visits_fall_into_the_same_cells_as_their_frames():
    seq = np.arange(12_000)
    seq[[6_000, 6_001]] = seq[[6_001, 6_000]]
    one = summarise_visit(frames(seq))
    assert len(one.strip) == STRIP_CELLS
    assert one.strip_marks == (StripMark(cell=60, late=1),)


def test_passes_follow_one_another_along_the_strip():
    two = frames([0, 1, 2, 50, 52, 51])
    one = summarise_visit(
        VisitFrames(**{name: getattr(two, name) for name in ("seq", "heard", "rssi_dbm", "snr_db", "noise_dbm", "time_s")},
                    passes=np.array([0, 0, 0, 1, 1, 1]))
    )  # fmt: skip
    assert one.strip_marks == (StripMark(cell=4, late=1),)


def test_frames_known_to_be_sent_with_no_line_around_them_are_unplaced():
    one = summarise_visit(frames([0, 1]), counting=Counting(planned=4))
    assert one.strip_marks == (StripMark(cell=2, unplaced=1), StripMark(cell=3, unplaced=1))
