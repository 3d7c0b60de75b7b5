"""The conducted ladder: known truth, honest limits, leaks."""

import numpy as np
import pytest
from scipy.special import ndtr

from inchmark.core.bench.conducted import Step, weigh


def ladder(theta=-121.0, softness=1.0, floor=0.005, sent=100, seed=1, levels=None):
    random = np.random.default_rng(seed)
    levels = range(-130, -110, 2) if levels is None else levels
    steps = []
    for level in levels:
        loss = floor + (1 - floor) * ndtr((theta - level) / softness)
        steps.append(Step(level_dbm=level, sent=sent, heard=int(random.binomial(sent, 1 - loss))))
    return steps


def test_the_half_lost_level_is_found_within_its_limits():
    found = weigh(ladder(sent=300)).level_at_loss(0.5)
    assert found.estimate == pytest.approx(-121, abs=0.3)
    assert found.high - found.low < 1.0


def test_the_limits_hold_the_truth_as_often_as_they_say():
    """95 % limits over 80 invented ladders: 90 % or more is within chance of that."""
    covered = 0
    for seed in range(80):
        found = weigh(ladder(sent=40, seed=seed)).level_at_loss(0.5)
        covered += found.low <= -121 <= found.high
    assert covered >= 72


def test_a_stricter_loss_needs_a_stronger_level():
    weighed = weigh(ladder(sent=400))
    levels = [weighed.level_at_loss(loss).estimate for loss in (0.5, 0.1, 0.05)]
    assert levels == sorted(levels)


def test_more_frames_narrow_the_limits():
    widths = []
    for sent in (20, 200):
        found = weigh(ladder(sent=sent)).level_at_loss(0.5)
        widths.append(found.high - found.low)
    assert widths[1] < widths[0]


def test_a_loss_below_what_is_lost_anyway_has_no_level():
    assert weigh(ladder(floor=0.05, sent=400)).level_at_loss(0.01) is None


def test_without_an_edge_the_limits_are_wide_and_the_edge_is_said_missing():
    weighed = weigh(ladder(levels=(-100, -96, -92)))
    assert not weighed.edge_reached
    found = weighed.level_at_loss(0.5)
    assert found.high - found.low > 5


def test_the_curve_falls_with_level_and_holds_its_steps():
    weighed = weigh(ladder(sent=300))
    losses = [weighed.loss_at(level).estimate for level in (-126, -122, -120, -115)]
    assert losses == sorted(losses, reverse=True)


def test_frames_that_came_round_the_cable_are_a_leak():
    steps = ladder(sent=100)
    assert weigh(steps).leaks == ()
    steps[0] = Step(level_dbm=-130, sent=100, heard=35)
    assert [step.level_dbm for step in weigh(steps).leaks] == [-130]


@pytest.mark.parametrize(
    "wrong", [{"sent": 0}, {"heard": 11}, {"heard": -1}, {"level_dbm": float("nan")}]
)
def test_impossible_steps_are_refused(wrong):
    with pytest.raises(ValueError, match="must be"):
        Step(**({"level_dbm": -120.0, "sent": 10, "heard": 5} | wrong))


def test_two_levels_are_no_ladder():
    with pytest.raises(ValueError, match="3 different levels"):
        weigh([Step(level_dbm=-120, sent=10, heard=5)] * 4)
