"""One visit's figures: everything later needs, nothing more."""

import numpy as np
import pytest

from inchmark.core.reception.passes import PassCounter
from inchmark.core.reception.rssi_noise import rssi_holds_noise
from inchmark.core.reception.strip import STRIP_CELLS
from inchmark.core.reception.visit import (
    Counting,
    VisitFrames,
    VisitKey,
    silent_visit,
    summarise_visit,
)

COLUMNS = ("seq", "heard", "rssi_dbm", "snr_db", "noise_dbm", "time_s")


def frames(seq, *, heard=None, rssi=-100.0, snr=np.nan, noise=np.nan, time=np.nan):
    count = len(seq)
    return VisitFrames(
        seq=np.array(seq, dtype=np.int64),
        heard=np.ones(count, dtype=bool) if heard is None else np.array(heard, dtype=bool),
        rssi_dbm=np.broadcast_to(np.asarray(rssi, dtype=float), count).copy(),
        snr_db=np.broadcast_to(np.asarray(snr, dtype=float), count).copy(),
        noise_dbm=np.broadcast_to(np.asarray(noise, dtype=float), count).copy(),
        time_s=np.broadcast_to(np.asarray(time, dtype=float), count).copy(),
    )


def test_gaps_are_lost_and_the_strip_shows_where():
    one = summarise_visit(frames([0, 1, 4]))
    assert (one.sent, one.heard, one.lost) == (5, 3, 2)
    assert one.strip == ((1, 1), (1, 1), (1, 0), (1, 0), (1, 1))


def test_logged_misses_count_as_sent():
    one = summarise_visit(frames([0, 1, 2], heard=[1, 0, 1]))
    assert (one.sent, one.heard) == (3, 2)


def test_a_silent_tail_is_lost_frames_not_fewer_frames():
    one = summarise_visit(frames([0, 1, 2]), counting=Counting(planned=10))
    assert (one.sent, one.lost, one.silent_tail) == (10, 7, 7)


def test_a_plan_below_what_the_counter_shows_changes_nothing():
    assert summarise_visit(frames([0, 9]), counting=Counting(planned=4)).sent == 10


def test_silence_at_the_end_is_counted_from_time_and_interval():
    late = frames([0, 1, 2], time=[0.0, 2.0, 40.0])
    assert summarise_visit(late, counting=Counting(interval_s=2.0)).sent == 21


@pytest.mark.parametrize("wrong", [{"interval_s": 0.0}, {"planned": 0}])
def test_an_interval_or_a_count_that_is_none_is_refused(wrong):
    with pytest.raises(ValueError, match=next(iter(wrong))):
        Counting(**wrong)


def test_a_duplicate_does_not_weigh_twice_in_the_level():
    one = summarise_visit(frames([0, 1, 1], rssi=[-100, -90, -80]))
    assert one.level_mean_dbm == -95
    assert one.duplicates == 1


def test_what_was_sent_elsewhere_between_two_passes_is_no_loss_here():
    two = VisitFrames(
        **{n: getattr(frames([0, 1, 3, 500, 502]), n) for n in COLUMNS},
        passes=np.array([0, 0, 0, 1, 1]),
    )
    one = summarise_visit(two)
    assert (one.sent, one.heard, one.passes, one.resets) == (7, 5, 2, 0)
    assert one.strip == ((1, 1), (1, 1), (1, 0), (1, 1), (1, 1), (1, 0), (1, 1))


def test_a_planned_count_holds_for_each_pass():
    two = VisitFrames(
        **{n: getattr(frames([0, 1, 500]), n) for n in COLUMNS}, passes=np.array([0, 0, 1])
    )
    assert summarise_visit(two, counting=Counting(planned=10)).sent == 20


def test_a_log_sent_again_in_a_longer_version_counts_its_frames_once():
    again = frames([0, 1, 2, 0, 1, 2, 3], time=[0.0, 2, 4, 0, 2, 4, 6])
    one = summarise_visit(again)
    assert (one.sent, one.heard, one.duplicates, one.resets) == (4, 4, 3, 0)


def test_a_rig_that_was_elsewhere_in_between_has_come_back():
    here, there = VisitKey("A", "1"), VisitKey("A", "2")
    other = VisitKey("B", "1")
    counter = PassCounter()
    rows = {here: np.array([0, 1, 5]), there: np.array([3]), other: np.array([2, 4])}
    assert list(counter.number(rows, 6)) == [0, 0, 0, 0, 0, 1]
    assert list(counter.number({here: np.array([0]), there: np.array([1])}, 2)) == [1, 1]


def test_receivers_side_by_side_do_not_end_each_others_passes():
    keys = [VisitKey("A", "1", receiver=r) for r in "mn"]
    rows = {keys[0]: np.array([0, 2]), keys[1]: np.array([1, 3])}
    assert list(PassCounter().number(rows, 4)) == [0, 0, 0, 0]


def test_a_frame_logged_by_both_ends_was_heard():
    one = summarise_visit(frames([0, 1, 2, 1], heard=[1, 0, 0, 1]))
    assert (one.sent, one.heard, one.duplicates) == (3, 2, 0)


def test_noise_is_taken_off_where_the_reading_holds_it():
    one = summarise_visit(frames([0, 1], rssi=-117, snr=0.0), rssi_includes_noise=True)
    assert one.rssi_mean_dbm == -117
    assert one.level_mean_dbm == pytest.approx(-120.01, abs=0.005)


def test_a_frame_without_a_level_is_heard_all_the_same():
    one = summarise_visit(frames([0, 1], rssi=[-100, np.nan]))
    assert (one.heard, one.heard_with_level) == (2, 1)


def test_a_long_visit_is_gathered_into_cells_that_add_up():
    one = summarise_visit(frames(list(range(0, 5000, 2))))
    assert len(one.strip) == STRIP_CELLS
    assert sum(sent for sent, _ in one.strip) == one.sent
    assert sum(heard for _, heard in one.strip) == one.heard


def test_nothing_heard_is_a_result():
    one = silent_visit(40)
    assert (one.sent, one.heard, one.level_mean_dbm) == (40, 0, None)
    with pytest.raises(ValueError, match="at least 1"):
        silent_visit(0)


def _readings(includes):
    random = np.random.default_rng(2)
    signal, noise = random.uniform(-130, -110, 400), -117.0
    seen = 10 * np.log10(10 ** (signal / 10) + 10 ** (noise / 10)) if includes else signal
    return np.round(seen), np.round((signal - noise) * 4) / 4


@pytest.mark.parametrize("includes", [True, False])
@pytest.mark.parametrize("noise_logged", [True, False])
def test_the_log_tells_whether_readings_hold_noise(includes, noise_logged):
    rssi, snr = _readings(includes)
    noise = np.full(400, -117.0 if noise_logged else np.nan)
    assert rssi_holds_noise(rssi, snr, noise) is includes


def test_a_log_of_strong_frames_cannot_tell_and_is_left_alone():
    strong = np.full(50, -70.0)
    assert rssi_holds_noise(strong, np.full(50, 40.0), np.full(50, -117.0)) is False
