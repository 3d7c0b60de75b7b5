"""How many visits are disturbed is learnt where it is many, and left at its prior where it is few."""

import pytest
from bench.invented import invent, regimes

from inchmark.core.link_model.data import OWN_FLOOR_SHARE
from inchmark.core.reading.analysis import analyse_visits


@pytest.mark.parametrize(
    ("regime", "learnt"), [("interference in half", True), ("ordinary", False)]
)
def test_the_share_of_disturbed_visits_is_learnt_only_where_they_are_many(regime, learnt):
    walked, truth = invent(regimes()[regime], seed=1)
    analysis = analyse_visits(walked)
    share = analysis.posterior.data.own_floor_share
    assert (share < OWN_FLOOR_SHARE) is learnt
    if learnt:
        assert share == pytest.approx(1 - len(truth.disturbed) / len(analysis.visits), abs=0.2)
