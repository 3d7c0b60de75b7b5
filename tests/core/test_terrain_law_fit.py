"""Walks over known terrain: each stop by its own path, and ranges that end at a hollow."""

from dataclasses import replace

import numpy as np
import pytest
from bench.invented import Regime, invent

from inchmark.core.link_model.law import TERRAIN, over_terrain
from inchmark.core.link_model.ranges import lg_distance
from inchmark.core.reading.analysis import analyse_visits

DISTANCES = np.array([30.0, 100.0, 300.0, 500.0, 700.0, 1500.0])


def test_a_stop_with_a_path_of_its_own_leaves_the_curve():
    law = over_terrain(DISTANCES, 30 * np.log10(DISTANCES), {"4": 99.0})
    curve = law.known_db(np.array([100.0, 300.0]), 300.0)
    own = law.known_at_stops_db(["3", "4"], np.array([100.0, 300.0]), 300.0)
    assert own[0] == curve[0] == pytest.approx(30 * np.log10(1 / 3))
    assert own[1] == pytest.approx(99.0 - 30 * np.log10(300.0))


@pytest.fixture(scope="module")
def over_known():
    walked, truth = invent(Regime(name="t", terrain_db=8.0, sigma_s=3.0, rigs=2), seed=3)
    return analyse_visits(walked), truth


def test_known_paths_take_the_spread_of_places_out(over_known):
    analysis, _ = over_known
    best = analysis.laws.fits[0].posterior
    assert best.data.law.kind == TERRAIN
    assert analysis.laws.weights[0] > 0.9
    slope = next(f.posterior for f in analysis.laws.fits if f.posterior.data.law.kind != TERRAIN)
    assert np.median(best.shadowing_db) < 0.8 * np.median(slope.shadowing_db)


def test_a_range_ends_at_the_first_hollow(over_known):
    p = over_known[0].laws.fits[0].posterior
    hollow = over_terrain(DISTANCES, np.array([60.0, 75.0, 90.0, 120.0, 90.0, 130.0]), {})
    p = replace(p, data=replace(p.data, law=hollow))
    at = 10 ** lg_distance(p, np.full(len(p.slopes), hollow.known_db(400.0, p.data.centre_m)))
    assert 300 < np.median(at) < 500
