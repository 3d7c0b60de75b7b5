"""Options by the thousand: alike to the draws they stand on, and none hidden that nothing beats."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from inchmark.core.airtime.collisions import Traffic
from inchmark.core.deciding.effects import gained
from inchmark.core.deciding.options import not_dominated, outcomes, tries_until_heard
from inchmark.core.deciding.weights import weighed
from tests.core.test_deciding import LOSS, drawn


def test_an_option_does_what_its_gain_does_to_the_draws():
    one = drawn([5.0, 0.0, -5.0])
    found = outcomes(
        one, LOSS, gained_db=np.array([0.0, 12.0]), airtime_s=np.array([1e-9, 1e-9]), period_s=900.0
    )
    for i, gain in enumerate((0.0, 12.0)):
        wanted = gained(one, LOSS, gain)
        assert found.served[i] == wanted.count.estimate
        assert found.served_low[i] == wanted.count.low
        assert found.expected[i] == pytest.approx(sum(wanted.chances), abs=0.01)
    assert found.in_hand_db[1] - found.in_hand_db[0] == pytest.approx(12.0)
    assert found.share[1] > found.share[0]


def test_a_longer_time_on_air_costs_frames_of_the_others():
    one = drawn([40.0] * 10)
    air = np.array([0.1, 10.0])
    found = outcomes(one, LOSS, gained_db=np.zeros(2), airtime_s=air, period_s=900.0)
    for i in range(2):
        kept = Traffic(senders=10, airtime_s=air[i], period_s=900.0).success_at_random_times()
        assert found.share[i] == pytest.approx(kept, abs=1e-6)
    assert found.served[0] == 10
    assert found.served[1] == 0  # a fifth is lost to the others: no level mends that


@given(arrays(float, st.tuples(st.integers(1, 40), st.integers(1, 4)), elements=st.integers(0, 5)))
def test_what_stands_out_is_what_nothing_beats(costs):
    found = not_dominated(costs)
    for i, row in enumerate(costs):
        beaten = any(np.all(other <= row) and np.any(other < row) for other in costs)
        assert found[i] != beaten


def test_what_is_not_known_counts_as_worst():
    assert not_dominated(np.array([[1.0, np.nan], [1.0, 3.0], [2.0, 2.0]])).tolist() == [
        False, True, True,
    ]  # fmt: skip


def test_weights_put_first_what_is_best_by_them_and_tell_what_would_overtake_it():
    figures = np.array([[10.0, 1.0], [8.0, 4.0], [0.0, 5.0]])
    found = weighed(figures, np.array([3.0, 1.0]))
    assert found.scores == pytest.approx([0.75, 0.8 * 0.75 + 0.75 * 0.25, 0.25])
    assert found.first == 1
    assert found.overtaken == {(0, 2.0): 0, (1, 0.5): 0}
    assert weighed(figures, np.array([1.0, 1.0])).overtaken == {}  # firm
    alone = weighed(figures, np.array([1.0, 0.0]))
    assert (alone.first, alone.overtaken) == (0, {})


def test_an_unknown_figure_weighs_as_the_worst_and_a_column_alike_for_all_decides_nothing():
    figures = np.array([[np.nan, 2.0], [1.0, 2.0], [5.0, 2.0]])
    found = weighed(figures, np.array([1.0, 1.0]))
    assert found.scores == pytest.approx([0.5, 0.5, 1.0])


@pytest.mark.parametrize(
    ("shares", "tries"),
    [
        ([[0.95]], 1),
        ([[0.5]], 5),  # 1 - 0.5^5 = 0.97, 0.5^4 leaves 6 %
        ([[0.1]], 29),  # ln 0.05 / ln 0.9 = 28.4
        ([[1.0, 0.5]], 4),  # half of the messages need them all: 1 - 0.5^4 / 2 = 0.97
        ([[1.0, 0.0]], float("inf")),  # places are not alike: half are never heard
    ],
)
def test_a_message_is_sent_until_nearly_all_are_heard(shares, tries):
    assert tries_until_heard(np.array(shares)) == tries
