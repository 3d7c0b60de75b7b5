"""Practice sites: drawn from a seed, the same for everyone, with a truth that a walk can find."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from inchmark.core.interval import Estimate
from inchmark.core.practice.scenarios import (
    FREE,
    LOOK_ALIKE,
    ROAD,
    SCENARIOS,
    TRAPS,
    offered,
    scenario_of,
)
from inchmark.core.practice.truth import SWAPPED_DB, Held, tally, truth_of
from inchmark.core.simulation import SimulatedRig
from inchmark.core.threshold import FRAME_SPREAD_DB
from inchmark.devices.simulator.ground import PowerLaw
from inchmark.devices.simulator.route import At
from inchmark.devices.simulator.traps import TRAPS as SIMULATED

MHZ = 869.525e6
BOARDS = {
    "A": SimulatedRig(level_at_1m_dbm=-11.0, threshold_dbm=-124.0),
    "B": SimulatedRig(level_at_1m_dbm=-7.0, threshold_dbm=-124.0),
}


def test_there_are_ten_sites_each_harder_than_the_one_before():
    assert [one.level for one in SCENARIOS] == list(range(1, 11))
    assert len({one.key for one in SCENARIOS}) == 10
    hidden = {trap for one in SCENARIOS for trap in one.traps}
    assert hidden == set(TRAPS)
    assert {LOOK_ALIKE, ROAD} | SIMULATED.keys() >= hidden


@given(st.integers(1, 999_999))
def test_a_number_gives_the_same_site_each_time_and_one_that_can_be_walked(seed):
    one = scenario_of(FREE, seed)
    assert one == scenario_of(FREE, seed)
    places = offered(one, seed)
    assert places == offered(one, seed)
    metres = [place.metres for place in places]
    assert metres == sorted(metres)
    assert metres[-1] > one.needed_m
    assert [place for place in places if place.road_m] == (
        [places[-3]] if ROAD in one.traps else []
    )


def test_an_unknown_site_is_none():
    with pytest.raises(KeyError):
        scenario_of("moon", 1)


@settings(max_examples=30)
@given(st.integers(1, 999_999))
def test_the_true_range_is_where_nine_of_ten_places_lose_a_tenth(seed):
    """The closed form against frames and places drawn one by one."""
    truth = truth_of(SCENARIOS[1], seed, BOARDS, MHZ)
    one = truth.rigs["A"]
    metres = truth.range_m("A", loss=0.1, places=0.9)
    random = np.random.default_rng(seed)
    loss_db = truth.loss_1m_db + 10 * truth.exponent * np.log10(metres)
    places = one.level_at_1m_dbm - loss_db + random.normal(0, truth.shadowing_db, 4000)
    spread = np.sort(random.normal(0, FRAME_SPREAD_DB, 100_000))
    lost = np.searchsorted(spread, one.threshold_dbm - places) / spread.size
    assert np.mean(lost <= 0.1) == pytest.approx(0.9, abs=0.02)  # 4 sd of 4000 places


def test_a_look_alike_is_deaf_and_its_margin_says_so():
    bench = next(one for one in SCENARIOS if LOOK_ALIKE in one.traps)
    plain = truth_of(SCENARIOS[0], 8, BOARDS, MHZ)
    swapped = truth_of(bench, 8, BOARDS, MHZ)
    assert plain.margin_db("B", "A") - swapped.margin_db("B", "A") == pytest.approx(SWAPPED_DB)
    assert swapped.range_m("B", loss=0.1, places=0.9) < swapped.range_m("A", loss=0.1, places=0.9)


def test_the_way_loses_by_its_law_and_the_same_at_every_visit():
    drawn = [
        PowerLaw(2000.0, 31.2, 3.0, 2.5, np.random.default_rng(4)).loss_db("A", At(metres, "x"))
        for metres in (10.0, 100.0, 1000.0, 100.0)
    ]
    assert drawn[1] == drawn[3]
    flat = PowerLaw(2000.0, 31.2, 3.0, 0.0, np.random.default_rng(4))
    assert flat.loss_db("A", At(100.0, "x")) == pytest.approx(91.2, abs=0.05)
    many = [
        PowerLaw(400.0, 31.2, 3.0, 2.5, np.random.default_rng(i)).loss_db("A", At(300.0, "x"))
        for i in range(400)
    ]
    assert np.std(many) == pytest.approx(2.5, rel=0.1)


def test_what_was_not_claimed_is_neither_right_nor_wrong():
    held = [
        Held(what="a", unit="m", true=5.0, claimed=Estimate(4, 3, 6)),
        Held(what="b", unit="m", true=9.0, claimed=Estimate(4, 3, 6)),
        Held(what="c", unit="m", true=9.0, claimed=None),
    ]
    assert [one.inside for one in held] == [True, False, None]
    assert tally(held) == (1, 2)
