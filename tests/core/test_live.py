"""A walk while it is walked: links as frames come, and when there are enough."""

import numpy as np
import pytest

from inchmark.core.gathering.source import Row
from inchmark.core.live.enough import MOST_MORE, Wanted, enough_of
from inchmark.core.live.link import MOST_HELD, Desk, LiveLink
from inchmark.core.reception.bursts import loss_runs
from inchmark.core.reception.passes import Counting


def enough(losses, **wanted):
    sequence = np.array(losses, dtype=float)
    return enough_of(int(sequence.sum()), loss_runs(sequence), Wanted(**wanted))


def row(seq, **more):
    return Row(**({"rig": "A", "stop": "1", "seq": seq, "time_s": float(seq)} | more))


def test_few_frames_are_never_enough_and_the_missing_ones_are_counted():
    found = enough([0] * 9)
    assert found.more > 0
    after = enough([0] * (9 + found.more))
    assert after.more == 0
    assert "Enough" in after.words
    assert enough([0] * (8 + found.more)).more == 1


def test_a_loss_far_over_the_rule_is_known_early():
    found = enough([1, 0, 1, 1, 0, 1, 1, 0, 1, 1, 1, 0, 1, 1, 0] * 2)
    assert found.more == 0
    assert "over 10 %" in found.words


def test_a_loss_at_the_rule_is_known_by_width_alone():
    losses = ([0] * 9 + [1]) * 8
    found = enough(losses, rule_loss=0.1, half=0.2)
    assert found.more == 0
    assert "over" not in found.words
    assert "within" not in found.words


def test_losses_in_runs_need_more_frames_and_it_is_said():
    apart = [1, 0, 0, 0, 0, 0] * 10
    runs = ([1] * 10 + [0] * 50) * 1
    assert enough(runs, half=0.05).more > enough(apart, half=0.05).more
    assert "frames are worth one" in enough(runs, half=0.05).words


def test_what_cannot_be_reached_has_an_end():
    assert enough([0, 1] * 10, rule_loss=0.5, half=0.001).more == MOST_MORE


@pytest.mark.parametrize("wanted", [{"rule_loss": 0.0}, {"half": 1.0}])
def test_shares_that_are_none_are_refused(wanted):
    with pytest.raises(ValueError, match=next(iter(wanted))):
        Wanted(**wanted)


def test_stopping_when_it_suits_seldom_claims_the_wrong_side():
    """At a loss just at the rule, somebody who looks every fifth frame and stops at “enough”."""
    random, wrong = np.random.default_rng(7), 0
    for _ in range(60):
        losses = (random.random(200) < 0.1).astype(float)
        for n in range(10, 200, 5):
            found = enough(losses[:n])
            if found.more == 0:
                wrong += "over" in found.words or "within" in found.words
                break
    assert wrong <= 6


def test_a_link_counts_what_the_counter_skipped_and_begins_anew_elsewhere():
    desk = Desk()
    assert desk.take([row(1), row(2), row(5, rssi_dbm=-90.0)]) == {("A", "", "")}
    visit = desk.links["A", "", ""].visit(Counting(), Wanted(), includes_noise=False)
    assert (visit.summary.sent, visit.summary.heard, visit.stop) == (5, 3, "1")
    assert visit.last.rssi_dbm == -90.0
    desk.take([row(9, stop="2"), row(10, stop="2")])
    visit = desk.links["A", "", ""].visit(Counting(), Wanted(), includes_noise=False)
    assert (visit.summary.sent, visit.stop) == (2, "2")


def test_frames_without_a_place_are_counted_apart():
    desk = Desk()
    assert desk.take([row(1, stop=""), row(2, rig="")]) == set()
    assert desk.without == 2


def test_what_was_sent_in_the_last_hour_follows_the_counter():
    link = LiveLink(("A", "", ""))
    for seq, at in ((1, 0.0), (4, 10.0), (5, 3000.0), (6, 4000.0)):
        link.take(row(seq, time_s=at))
    assert link.sent_since(400.0) == 2
    link.take(row(5000, time_s=4001.0))  # stood elsewhere meanwhile
    assert link.sent_since(3999.0) == 2


def test_a_visit_without_end_is_held_to_its_last_frames_and_says_so():
    link = LiveLink(("A", "", ""))
    for seq in range(MOST_HELD + 3):
        link.take(row(seq))
    visit = link.visit(Counting(), Wanted(), includes_noise=False)
    assert visit.cut
    assert visit.summary.sent == MOST_HELD
