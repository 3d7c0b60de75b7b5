"""Frames of several sources: stays, tracks, clocks, senders, tries, and what was lost between."""

import pytest

from inchmark.core.gathering.clocks import align, offset_s
from inchmark.core.gathering.gather import gather
from inchmark.core.gathering.source import Constants, Row, Source
from inchmark.core.gathering.timeline import Stay, Timeline, Track
from inchmark.core.gathering.visits import Sending
from inchmark.core.gathering.words import event_words, row_words
from inchmark.core.recipe.names import Act, Meaning
from inchmark.core.recipe.reader import Aside, Fix, Standing, Told


def source(name, *rows, act=Act.HEARD):
    return Source(name=name, told=[(act, row) for row in rows])


def row(seq=None, **changes):
    return Row(**{"rig": "A", "stop": "1", "seq": seq} | changes)


def seen(found):
    return [(one.seq, one.heard) for one in found.rows]


def test_constants_fill_what_lines_do_not_say_and_a_sender_is_a_rig_nobody_named():
    told = Told(1, Act.HEARD, None, {Meaning.SOURCE: "n7", Meaning.DISTANCE: 120.0})
    (act, made), *_ = Constants(values={Meaning.RECEIVER: "barn"}).rows([told])
    assert (act, made.rig, made.stop, made.receiver) == (Act.HEARD, "n7", "120 m", "barn")


def test_gaps_of_the_counter_are_lost_frames_and_a_gap_between_two_stops_is_none():
    found = gather([source("r", row(1), row(3), row(9, stop="2"), row(10, stop="2"))])
    assert seen(found) == [(1, True), (2, False), (3, True), (9, True), (10, True)]


def test_a_wrap_loses_nothing_but_what_is_missing():
    found = gather([source("r", row(254), row(255), row(1))])
    assert seen(found) == [(254, True), (255, True), (0, False), (1, True)]


def test_frames_without_rig_or_stop_are_counted_and_not_placed():
    found = gather([source("r", row(1, rig=""), row(2, stop=""))])
    assert (found.rows, found.without_rig, found.without_stop) == ([], 1, 1)


def test_stays_place_frames_name_the_rig_first_and_know_what_was_sent():
    stays = [
        Stay(from_s=0, to_s=100, stop="1"),
        Stay(from_s=0, to_s=50, stop="1", rig="B", condition="pocket"),
        Stay(from_s=100, to_s=200, stop="2", rig="A", sent=4),
        Stay(from_s=200, to_s=300, stop="3", rig="A", sent=2),
    ]
    rows = [row(i, rig="", stop="", time_s=t) for i, t in enumerate((10, 60, 110, 120))]
    found = gather([source("r", *rows[:2]), source("s", *(row(i, stop="", time_s=t) for i, t in ((2, 110), (3, 120))))],
                   timeline=Timeline(stays))  # fmt: skip
    placed = [(one.rig, one.stop, one.condition, one.heard) for one in found.rows]
    assert ("B", "1", "pocket", True) in placed
    assert placed.count(("A", "2", "", False)) == 2
    assert placed.count(("A", "3", "", False)) == 2
    assert found.without_rig == 1


def test_two_stays_at_one_stop_are_two_passes_unless_they_follow_on():
    stays = [
        Stay(from_s=0, to_s=10, stop="1", rig="A"),
        Stay(from_s=50, to_s=60, stop="1", rig="A"),
    ]
    rows = [row(i, stop="", time_s=t) for i, t in ((0, 1), (1, 2), (9, 51), (10, 52))]
    found = gather([source("r", *rows)], timeline=Timeline(stays))
    assert [one.pass_number for one in found.rows] == [0, 0, 1, 1]
    joined = [Stay(from_s=0, to_s=50, stop="1"), Stay(from_s=50, to_s=60, stop="1")]
    found = gather([source("r", *rows)], timeline=Timeline(joined))
    assert len(found.rows) == 11


def test_a_track_places_frames_between_its_points_and_not_far_from_them():
    track = Track([(0.0, 47.0, -21.0), (10.0, 48.0, -20.0)])
    assert track.placed(row(1, time_s=5.0)).lat == 47.5
    assert track.placed(row(1, time_s=500.0)).lat is None
    assert track.placed(row(1)).lat is None
    found = gather([source("r", row(1, time_s=5.0))], track=track)
    assert found.rows[0].lon == -20.5


def test_clocks_are_set_from_frames_both_ends_know():
    one = source("a", *(row(i, time_s=10.0 * i) for i in range(5)))
    other = source("b", *(row(i, time_s=10.0 * i + 93.4) for i in range(5)), row(2, time_s=0.0))
    assert offset_s(other, one) == (pytest.approx(-93.4), 4)
    found = align([one, other], {"b"})
    assert found["b"][0] == pytest.approx(-93.4)
    assert other.told[0][1].time_s == pytest.approx(0.0)
    assert align([one, source("c", row(99, time_s=1.0))], {"c"}) == {"c": None}


def test_a_sender_tells_what_nobody_heard_for_those_who_heard_it():
    sent = source("node", *(row(i, rig="", time_s=float(i)) for i in range(6)), act=Act.SENT)
    heard = source("gw", row(2, time_s=2.1), row(3, time_s=3.1), row(77, time_s=70.0))
    found = gather([sent, heard])
    assert [one.seq for one in found.rows if not one.heard][:4] == [0, 1, 4, 5]
    assert found.senders == ["node"]
    blind = gather([sent, source("gw", row(2), row(3))])
    assert len(blind.rows) == 6


def test_tries_without_an_answer_are_losses_of_the_pair():
    told = [
        (Act.SENT, row(1)), (Act.REPLY, row(None, rssi_dbm=-80.0)), (Act.SENT, row(2)),
        (Act.LOST, row(None)), (Act.SENT, row(3)), (Act.REPLY, row(3, rssi_dbm=-82.0)),
    ]  # fmt: skip
    found = gather([Source(name="button", told=told)])
    assert seen(found) == [(1, True), (2, False), (3, True)]
    assert {one.direction for one in found.rows} == {"replies"}
    assert found.exchanges == ["button"]
    bare = [(Act.SENT, row(None)), (Act.HEARD, row(None)), (Act.SENT, row(None))]
    assert seen(gather([Source(name="x", told=bare)])) == [(0, True), (1, False)]


def test_frames_without_a_counter_are_numbered_by_the_beat():
    stay = Stay(from_s=0, to_s=60, stop="1", rig="A")
    rows = [row(None, rig="", stop="", time_s=t) for t in (12.0, 32.0)]
    found = gather([source("r", *rows)], timeline=Timeline([stay]), sending=Sending(interval_s=10))
    assert [one.heard for one in found.rows] == [False, True, False, True, False, False]
    found = gather([source("r", row(None), row(None))], sending=Sending(per_visit=5))
    assert [one.heard for one in found.rows] == [True, True, False, False, False]
    assert gather([source("r", row(None))]).without_count == 1


def test_how_many_are_sent_at_a_visit_is_not_asked_of_each_pass():
    rows = [row(0), row(1), row(2, stop="2"), row(7), row(8)]
    found = gather([source("r", *rows)], sending=Sending(per_visit=3))
    assert len([one for one in found.rows if one.stop == "1"]) == 4
    assert len([one for one in found.rows if one.stop == "2"]) == 3


def test_a_line_is_said_in_words_that_can_be_checked_against_it():
    made = row(12, rssi_dbm=-87.0, snr_db=7.25, noise_dbm=-117.0, receiver="barn", hops=2.0)
    words = row_words(made, Act.HEARD)
    assert (
        words
        == "frame 12 of A at stop 1, −87.0 dBm, S/N 7.25 dB, noise −117.0 dBm, by barn, over 2 hops"
    )
    assert row_words(Row(), Act.LOST) == "lost: a frame"
    assert event_words(Standing(1, {Meaning.STOP: "3"})) == "from here on: stop 3"
    assert event_words(Fix(1, None, 47.5, -21.0)) == "position 47.50000, -21.00000"
    assert event_words(Aside(1, "boot")) == "no frame"
