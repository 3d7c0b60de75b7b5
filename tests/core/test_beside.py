"""Predicted beside walked, and walk beside walk."""

import numpy as np
import pytest

from inchmark.core.reading.beside import beside_plan, walk_changes
from tests.core.test_laws_and_guidance import walked
from tests.core.test_reading import OUT, read, walk

D = (30, 60, 120, 200, 400, 700)


def test_ground_that_costs_more_beyond_a_distance_is_said():
    found = beside_plan(zip(D, (0.5, -0.4, 0.2, -0.1, -9.2, -8.7), strict=True))
    assert found.beyond_m == pytest.approx(np.sqrt(200 * 400))
    assert "Beyond 283 m the ground costs 9.0 dB more than predicted" in found.sentence


def test_an_offset_all_along_and_none_are_told_apart():
    low = beside_plan(zip(D, (-4.2, -3.7, -4.4, -4.1, -3.6, -4.0), strict=True))
    assert low.beyond_m is None
    assert "All along, levels lie 4.0 dB below the prediction" in low.sentence
    none = beside_plan(zip(D, (2.0, -1.5, 1.0, -2.2, 1.3, -0.4), strict=True))
    assert none.sentence.startswith("The walk bears the prediction out")


def test_scatter_alone_is_seldom_a_distance():
    """Ten stops of plain scatter, four hundred walks: two in a hundred at most, within chance."""
    random = np.random.default_rng(1)
    walks = [zip(range(1, 11), random.normal(0, 5, 10), strict=True) for _ in range(400)]
    found = sum(beside_plan(rows).beyond_m is not None for rows in walks)
    assert found <= 16  # 8 expected at most; 16 would be three standard deviations more


def test_rigs_at_one_distance_count_as_one_and_two_stops_say_nothing():
    both = beside_plan([(30, 1.0), (30, 3.0), (60, 2.0), (90, 2.0)])
    assert both.off_db.estimate == pytest.approx(2.0)
    assert beside_plan([(30, 1.0), (30, 2.0), (60, 1.0)]) is None


def test_a_change_from_walk_to_walk_is_told_from_chance():
    def named(visits, number, **more):
        return [
            type(v)(
                key=type(v.key)(rig=v.key.rig, stop=v.key.stop, walk=number),
                distance_m=v.distance_m,
                summary=v.summary,
            )
            for v in visits
        ]

    same = walk(OUT)
    reading = read([*named(same, "1"), *named(same, "2")], walked(same).facts)
    for one in walk_changes(reading.visits):
        assert one.change_db.estimate == pytest.approx(0, abs=0.5)
        assert not one.beyond_chance
    assert {(one.before, one.walk, one.visits) for one in walk_changes(reading.visits)} == {
        ("1", "2", 6)
    }
    assert walk_changes(read(same, walked(same).facts).visits) == []
