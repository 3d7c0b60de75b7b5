"""Loss intervals, with and without runs of losses."""

import numpy as np
import pytest
from hypothesis import given

from inchmark.cli.reference import formulas
from inchmark.core.reception import bursts, proportion
from tests import strategies as our

WORKED = pytest.mark.parametrize(
    # Wilson's interval as R's prop.test(correct=FALSE) gives it; the first three stand in the
    # tests of the general-purpose library scipy (binomtest.proportion_ci), recalled
    ("k", "n", "confidence", "low", "high"),
    [
        (10, 10, 0.95, 0.722467, 1.0),
        (0, 10, 0.95, 0.0, 0.277533),
        (20, 100, 0.95, 0.133367, 0.288829),
    ],
)


@WORKED
def test_wilson_matches_the_worked_values(k, n, confidence, low, high):
    limits = proportion.wilson(k, n, confidence=confidence)
    assert (limits.low, limits.high) == pytest.approx((low, high), abs=5e-7)


@given(our.counts())
def test_every_interval_holds_the_observed_share(counted):
    k, n = counted
    for method in (proportion.wilson, formulas.clopper_pearson):
        limits = method(k, n)
        assert limits.low <= k / n <= limits.high


@given(our.counts())
def test_intervals_mirror_when_heard_and_lost_change_places(counted):
    k, n = counted
    lost, heard = proportion.wilson(k, n), proportion.wilson(n - k, n)
    assert lost.low == pytest.approx(1 - heard.high, abs=1e-12)


@given(our.counts())
def test_bursts_only_widen_an_interval(counted):
    k, n = counted
    plain, wide = bursts.loss_interval(k, n), bursts.loss_interval(k, n, tau=4.0)
    assert wide.low <= plain.low + 1e-12
    assert wide.high >= plain.high - 1e-12


@pytest.mark.parametrize(("k", "n"), [(1, 0), (5, 4), (-1, 4)])
def test_impossible_counts_are_refused(k, n):
    with pytest.raises(ValueError, match="successes"):
        proportion.wilson(k, n)


def test_twenty_nine_heard_of_twenty_nine_show_a_loss_under_ten_per_cent():
    assert proportion.zero_loss_frames(0.1) == 29
    with pytest.raises(ValueError, match="error_rate"):
        proportion.zero_loss_frames(0.0)


def test_an_unknown_method_is_named():
    with pytest.raises(ValueError, match="guess"):
        formulas.expected_half_width(0.1, 100, method="guess")


def _chain(random, n, loss, stay):
    """Return losses that come in runs of mean length 1 / (1 - stay) (Gilbert 1960)."""
    leave = (1 - stay) * loss / (1 - loss)
    state, out = random.random() < loss, np.empty(n)
    for i in range(n):
        out[i] = state
        state = random.random() < (stay if state else leave)
    return out


def test_independent_losses_are_worth_nearly_what_they_are():
    random = np.random.default_rng(4)
    runs = [bursts.loss_runs((random.random(200) < 0.3).astype(float)) for _ in range(20)]
    assert 1.0 <= bursts.autocorrelation_time(runs) < 1.5


@pytest.mark.parametrize(("stay", "low", "high"), [(0.667, 2.5, 6.5), (0.875, 7.0, 17.0)])
def test_runs_of_losses_are_seen(stay, low, high):
    """A two-state chain of eigenvalue r has tau (1 + r) / (1 - r), r = stay - leave."""
    random = np.random.default_rng(5)
    runs = [bursts.loss_runs(_chain(random, 300, 0.3, stay)) for _ in range(20)]
    assert low < bursts.autocorrelation_time(runs) < high


@pytest.mark.parametrize("stay", [0.3, 0.667, 0.875])
def test_the_burst_aware_interval_covers_as_it_promises(stay):
    """Plain Wilson falls to 62 % here; the rule was measured at 97 to 98 % (link model, 6)."""
    random = np.random.default_rng(6)
    covered, studies = 0, 60
    for _ in range(studies):
        losses = [_chain(random, 100, 0.3, stay) for _ in range(8)]
        runs = [bursts.loss_runs(one) for one in losses]
        pooled = bursts.autocorrelation_time(runs)
        tau = bursts.visit_tau(runs[0], int(losses[0].sum()), pooled)
        limits = bursts.loss_interval(int(losses[0].sum()), 100, tau=tau)
        covered += limits.low <= 0.3 <= limits.high
    assert covered / studies >= 0.90


def test_a_study_without_losses_falls_back_on_two_frames():
    quiet = bursts.loss_runs(np.zeros(60))
    assert bursts.autocorrelation_time([quiet]) == 2.0
    assert bursts.visit_tau(quiet, 0, 3.0) == 3.0
    assert bursts.autocorrelation_time([]) == 2.0


def test_one_long_outage_is_one_run():
    loss = np.concatenate([np.zeros(50), np.ones(50)])
    assert bursts.loss_runs(loss).runs == 1
    assert bursts.loss_runs(np.ones(5)).runs == 1
