"""Design, power and timetable of a field day."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inchmark.core.planning.cautions import CAUTIONS, that_apply
from inchmark.core.planning.design import (
    comparisons,
    confounded,
    drift_confounded,
    frames_for_level,
    order_of_work,
    remedies,
    zero_lost_shows,
)
from inchmark.core.planning.power import PlannedWalk, Question, power
from inchmark.core.planning.timetable import Pace, frame_interval_s, timetable
from inchmark.core.simulation import SimulatedRig, SimulatedSite

RIGS = {
    "A": {"antenna": "coil", "setting": "SF7"},
    "B": {"antenna": "whip", "setting": "SF7"},
    "C": {"antenna": "whip", "setting": "SF10"},
}
STOPS = [(str(i), d) for i, d in enumerate((25, 60, 120, 210, 330, 480, 700, 950), start=1)]


def test_pairs_that_differ_in_one_thing_are_clean():
    found = {(one.one, one.other): one for one in comparisons(RIGS)}
    assert found["A", "B"].clean
    assert found["B", "C"].clean
    assert found["A", "C"].things == ("antenna", "setting")
    assert remedies(RIGS) == []  # B joins A and C


def test_a_pair_nothing_joins_gets_a_rig_to_add():
    (words,) = remedies({"A": RIGS["A"], "C": RIGS["C"]})
    assert "like A with only the antenna of C" in words


@given(st.integers(0, 2**31 - 1), st.integers(1, 3))
def test_every_rig_stands_at_every_stop_once_a_pass(seed, passes):
    stops = [label for label, _ in STOPS]
    visits = order_of_work("ABC", stops, passes=passes, seed=seed, shuffled=True)
    assert len(visits) == 3 * len(stops) * passes
    assert len({(v.pass_number, v.stop, v.rig) for v in visits}) == len(visits)
    assert visits == order_of_work("ABC", stops, passes=passes, seed=seed, shuffled=True)


def test_the_second_pass_walks_back():
    visits = order_of_work("A", ["1", "2", "3"], passes=2, seed=0, shuffled=False)
    assert [v.stop for v in visits] == ["1", "2", "3", "3", "2", "1"]


def test_a_fixed_order_sides_with_a_drift_and_a_drawn_one_does_not():
    stops = [label for label, _ in STOPS]
    fixed = order_of_work("AB", stops, passes=1, seed=1, shuffled=False)
    assert "A comes first at every stop" in drift_confounded(fixed)[0]
    assert drift_confounded(order_of_work("AB", stops, passes=1, seed=1, shuffled=True)) == []


@pytest.mark.parametrize(
    ("arrangement", "passes", "words"),
    [
        ("together", 1, []),
        ("apart", 1, ["time of day"]),
        ("apart", 2, ["time of day"]),
        ("days", 1, ["a day each"]),
        ("days", 2, []),  # rigs change days, so that day and rig hang together
        ("people", 1, ["a carrier each"]),
        ("people", 2, []),
    ],
)
def test_what_sides_with_a_rig_is_told(arrangement, passes, words):
    stops = [label for label, _ in STOPS]
    visits = order_of_work(
        "ABC", stops, passes=passes, seed=1, shuffled=True, arrangement=arrangement
    )
    assert len({(v.pass_number, v.stop, v.rig) for v in visits}) == 3 * len(stops) * passes
    found = confounded(visits, arrangement)
    assert len(found) == len(words)
    assert all(word in one.words for one, word in zip(found, words, strict=True))


@given(st.integers(0, 2**31 - 1), st.integers(1, 2))
def test_every_rig_stands_in_every_way_once_a_stop_and_pass(seed, passes):
    ways, stops = ["", "other radios on"], [label for label, _ in STOPS]
    visits = order_of_work("AB", stops, passes=passes, seed=seed, shuffled=True, ways=ways)
    assert len({(v.pass_number, v.stop, v.rig, v.way) for v in visits}) == len(visits)
    assert len(visits) == 2 * 2 * len(stops) * passes
    assert [v.place for v in visits] == list(range(1, len(visits) + 1))


def test_a_way_that_always_comes_first_sides_with_a_drift():
    stops, ways = [label for label, _ in STOPS], ["", "other radios on"]
    fixed = order_of_work("AB", stops, passes=1, seed=1, shuffled=False, ways=ways)
    words = [one.words for one in confounded(fixed, "together")]
    assert any("as usual comes first whenever a rig stands" in each for each in words)
    drawn = order_of_work("AB", stops, passes=1, seed=1, shuffled=True, ways=ways)
    assert confounded(drawn, "together") == []


def test_one_rig_sides_with_nothing():
    assert confounded(order_of_work("A", ["1"], passes=1, seed=1, shuffled=True), "apart") == []
    with pytest.raises(ValueError, match="must be one of"):
        order_of_work("A", ["1"], passes=1, seed=1, shuffled=True, arrangement="by bus")


def test_no_loss_in_thirty_shows_a_loss_under_ten_per_cent():
    """1 - 0.05^(1/30) = 9.5 % (textbook; the rule of three gives 10 %)."""
    assert zero_lost_shows(30) == pytest.approx(0.0950, abs=1e-4)


def test_a_mean_level_to_a_decibel_takes_twenty_five_frames_at_two_and_a_half():
    """(1.96 x 2.5 / 1)^2 = 24.01 (textbook)."""
    assert frames_for_level(1.0, 2.5) == 25


def planned(frames=60, difference=4.2, passes=1, shadowing=2.0):
    rigs = {
        "A": SimulatedRig(level_at_1m_dbm=-39.8, threshold_dbm=-122.0),
        "B": SimulatedRig(level_at_1m_dbm=-39.8 + difference, threshold_dbm=-122.0),
    }
    site = SimulatedSite(sigma_s_db=shadowing)
    return PlannedWalk(stops=STOPS, frames=frames, passes=passes, site=site, rigs=rigs)


COMPARE = Question(kind="compare", rig="B", other="A", wanted_db=2.0)


def test_a_large_difference_is_settled_more_often_than_a_small_one():
    def share(difference):
        return power(COMPARE, planned(difference=difference), studies=60, seed=3).share

    assert share(6.0) > 0.95
    assert share(2.0) < 0.1
    assert share(6.0) >= share(4.0) >= share(3.0)


def test_nothing_to_find_is_hardly_ever_found():
    """Wanted 2 dB, truth 0 dB: under one in twenty may be settled wrongly."""
    assert power(COMPARE, planned(difference=0.0), studies=100, seed=5).share < 0.05


def test_more_frames_settle_reach_more_often():
    reach = Question(kind="reach", rig="B", needed_m=480.0)
    few, many = (power(reach, planned(frames=n), studies=80, seed=7).share for n in (20, 120))
    assert many > few


def test_power_is_the_same_for_the_same_seed_and_tells_its_progress():
    told = []
    one = power(COMPARE, planned(), studies=20, seed=9, progress=told.append)
    assert told == list(range(1, 21))
    assert one == power(COMPARE, planned(), studies=20, seed=9)
    assert one.limits.low <= one.share <= one.limits.high


def test_an_edge_between_close_stops_is_bracketed():
    edge = Question(kind="edge", rig="A")
    assert power(edge, planned(shadowing=0.5), studies=20, seed=1).share > 0.8


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"kind": "guess", "rig": "A"}, "must be one of"),
        ({"kind": "compare", "rig": "A", "other": "A"}, "two different rigs"),
        ({"kind": "reach", "rig": "A"}, "needs a distance"),
    ],
)
def test_a_question_without_what_it_needs_is_refused(wrong, words):
    with pytest.raises(ValueError, match=words):
        Question(**wrong)


def test_frames_are_never_sent_faster_than_the_duty_cycle_allows():
    assert frame_interval_s(0.05, 1.0, None) == pytest.approx(5.0)
    assert frame_interval_s(0.05, 1.0, 2.0) == pytest.approx(5.0)
    assert frame_interval_s(0.05, 1.0, 8.0) == 8.0


def test_the_time_of_the_day_adds_up():
    visits = order_of_work("AB", ["1", "2"], passes=1, seed=0, shuffled=False)
    table = timetable(
        visits,
        distances_m={"1": 120.0, "2": 240.0},
        intervals_s={"A": 1.0, "B": 2.0},
        pace=Pace(frames=60, set_up_s=100.0, change_s=50.0, speed_m_s=1.2),
    )
    assert table.sending_s == 2 * (60 + 120)
    assert table.walking_s == pytest.approx(2 * 240 / 1.2)
    assert table.setting_up_s == 2 * (100 + 50)
    assert table.total_s == pytest.approx(table.sending_s + table.walking_s + table.setting_up_s)
    ends = [entry.end_s for entry in table.entries]
    assert ends == sorted(ends)


def test_only_the_cautions_of_the_plan_are_shown_and_high_power_by_itself():
    assert [one.key for one in that_apply(["water"], strongest_eirp_dbm=14.0)] == ["water"]
    keys = [one.key for one in that_apply([], strongest_eirp_dbm=33.0)]
    assert keys == ["power"]
    assert len({one.key for one in CAUTIONS}) == len(CAUTIONS)
