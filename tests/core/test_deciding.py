"""Draws of needed places: kept and read back, shifted, seen from elsewhere, covered by receivers."""

import base64
import struct
import zlib
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import norm

from inchmark.core.deciding.cover import chance_map
from inchmark.core.deciding.effects import (
    Spots,
    effect_of,
    gained,
    meets_from,
    needed_gain_db,
)
from inchmark.core.deciding.influence import influences, shifted
from inchmark.core.deciding.receivers import further_receivers, relayed
from inchmark.core.reading.place_draws import PlaceDraws, counted, thinned

LOSS = 0.1


def drawn(typical, *, draws=1500, spread=4.0, place_db=5.0, floor=0.0, seed=3):
    """Places whose level over the threshold is known on average [dB]."""
    random = np.random.default_rng(seed)
    level = np.asarray(typical, dtype=float) + random.normal(0, 1, (draws, 1))
    over = level + place_db * random.standard_normal(level.shape)
    every = np.ones(draws)
    return PlaceDraws(
        over=over, typical=level, exponent=3.0 * every, place_db=place_db * every,
        frame_db=spread * every, floor=floor * every,
    )  # fmt: skip


def test_the_rule_holds_where_the_share_of_frames_says_so():
    one = drawn([-10.0, 0.0, 5.0, 20.0], floor=0.02)
    assert np.array_equal(one.meets(LOSS), one.shares() >= 1 - LOSS)
    assert one.meets(LOSS, 40.0).all()


def test_more_lost_than_the_rule_allows_whatever_the_level_is_never_met():
    lossy = drawn([30.0], floor=0.2)
    assert not lossy.meets(LOSS, 100.0).any()
    assert needed_gain_db(lossy, LOSS, 0) is None


@given(st.floats(-30, 30), st.floats(0, 0.09))
def test_the_gain_a_place_needs_makes_it_hold_and_a_little_less_does_not(typical, floor):
    one = drawn([typical], draws=400, floor=floor)
    needed = needed_gain_db(one, LOSS, 0)
    assert one.chances(LOSS, needed)[0] >= 0.95 - 1 / 400
    if needed > 0.2:
        assert one.chances(LOSS, needed - 0.1)[0] < 0.95


def test_draws_are_read_back_as_they_were_kept_to_a_hundredth_of_a_decibel():
    one = drawn(np.linspace(-30, 30, 200))
    back = PlaceDraws.from_kept(one.kept())
    rows = thinned(*one.over.shape)
    assert len(rows) == 400
    assert back.over == pytest.approx(one.over[rows], abs=0.0051)
    assert back.typical == pytest.approx(one.typical[rows], abs=0.0051)
    assert back.frame_db == pytest.approx(one.frame_db[rows], rel=1e-6)
    assert PlaceDraws.from_kept("") is None
    assert back.walls is back.threshold is None
    more = replace(one, threshold=np.linspace(-114, -110, 1500), walls=np.linspace(0, 1, 1500))
    back = PlaceDraws.from_kept(more.kept())
    assert back.threshold == pytest.approx(more.threshold[rows], rel=1e-6)
    assert back.walls == pytest.approx(more.walls[rows], abs=1e-6)


def test_draws_kept_before_threshold_and_walls_were_are_still_read():
    one = drawn([5.0, 8.0], draws=400)
    head, levels = struct.pack("<II", 400, 2), np.round(np.stack([one.over, one.typical]) * 100)
    four = np.stack([one.exponent, one.place_db, one.frame_db, one.floor]).astype("<f4")
    packed = zlib.compress(head + levels.astype("<i2").tobytes() + four.tobytes())
    back = PlaceDraws.from_kept(base64.b64encode(packed).decode())
    assert back.over == pytest.approx(one.over, abs=0.0051)
    assert back.threshold is None


def test_one_row_of_draws_stands_for_all_rigs():
    assert np.array_equal(thinned(2000, 14), thinned(2000, 14))
    assert len(thinned(2000, 14)) == 2000
    assert len(thinned(300, 500)) == 300


def test_chances_at_another_spot_are_those_of_the_normal_spread_of_places():
    one = drawn([0.0], draws=20_000)
    spots = Spots(
        nearer_db=np.array([[0.0], [2.0]]),
        fixed_db=np.array([[0.0], [4.0]]),
        fewer_walls_db=np.zeros((2, 1)),
    )
    wanted = 4.0 * norm.ppf(0.9)
    for spot, gain in ((0, 0.0), (1, 3 * 2.0 + 4.0)):
        told = meets_from(one, LOSS, spots, spot, seed=1).mean()
        assert told == pytest.approx(norm.cdf((gain - wanted) / np.hypot(5, 1)), abs=0.012)


def test_a_receiver_is_placed_where_most_is_won_and_a_second_where_the_rest_is():
    one = drawn([-15.0, -15.0, -15.0, 30.0])
    gains = np.array([[40.0, 40.0, 0, 0], [0, 0, 40.0, 0], [0, 40.0, 0, 0], [0, 0, 0, 40.0]])
    spots = Spots(nearer_db=np.zeros((4, 4)), fixed_db=gains, fewer_walls_db=np.zeros((4, 4)))
    found = further_receivers(one, LOSS, spots, most=4)
    assert [added.spot for added in found] == [0, 1]
    assert found[0].effect.won(gained(one, LOSS)) == [0, 1]
    assert found[1].effect.count.estimate == 4
    assert found[0].adds == pytest.approx(2, abs=0.1)


def test_a_relay_needs_both_hops():
    one = drawn([-20.0, 30.0, -20.0])
    near = np.full((3, 3), 60.0)
    (best, chance), (worst, low) = relayed(
        one,
        LOSS,
        Spots(nearer_db=np.zeros((3, 3)), fixed_db=near, fewer_walls_db=np.zeros((3, 3))),
        0,
    )
    assert (best, worst) == (1, 2)
    assert chance > 0.95
    assert low < 0.05


def test_counts_have_limits_and_places_won_are_those_that_hold_now():
    one = drawn([30.0, 30.0, -30.0, 2.0])
    now, then = gained(one, LOSS), gained(one, LOSS, [0.0, 0.0, 70.0, 0.0])
    assert then.won(now) == [2]
    assert counted(one.meets(LOSS)).low == 2
    assert now.count.low <= now.count.estimate <= now.count.high
    assert effect_of(one.meets(LOSS)) == now


@pytest.mark.parametrize("over_terrain", [True, False])
def test_the_map_falls_from_the_end_and_knows_the_places_it_is_anchored_at(over_terrain):
    one = drawn([8.0, 8.0])
    metres, cells = np.array([500.0, 500.0]), np.array([100.0, 500.0, 2500.0, np.nan])
    decades, there = 10 * np.log10(metres), 10 * np.log10(cells)
    nothing = np.zeros(2), np.where(np.isnan(cells), np.nan, 0.0)
    known = (3 * decades, 3 * there) if over_terrain else nothing
    rest = nothing if over_terrain else (decades, there)
    found = chance_map(
        one, LOSS, places_db=known[0], cells_db=known[1],
        places_decades=rest[0], cells_decades=rest[1],
        places_walls=np.zeros(2), cells_walls=np.zeros(4),
    )  # fmt: skip
    assert found[0] > found[1] > found[2]
    wanted = 4.0 * norm.ppf(0.9)
    assert found[1] == pytest.approx(norm.cdf((8 - wanted) / np.hypot(5, 1)), abs=0.05)
    assert np.isnan(found[3])


def test_what_the_count_hangs_on_is_found_in_the_draws():
    random = np.random.default_rng(5)
    one = drawn(np.zeros(10), place_db=0.5)
    slopes = random.normal(3.0, 0.3, 1500)
    swayed = replace(
        one, exponent=slopes, over=one.over - 20 * (slopes - 3.0)[:, None],
        floor=random.uniform(0, 0.01, 1500),
    )  # fmt: skip
    found = {item.item: item for item in influences(swayed, LOSS)}
    steep = found["exponent"]
    assert next(iter(found)) == "exponent"
    assert steep.low < 2.8 < 3.2 < steep.high
    assert steep.served_low > steep.served_high
    assert found["floor"].swing < 0.5 * steep.swing
    assert "places" not in found  # it does not vary
    hearing = random.normal(-112, 1.5, 1500)
    deaf = replace(one, threshold=hearing, over=one.over - 3 * (hearing + 112)[:, None])
    found = {item.item: item for item in influences(deaf, LOSS)}
    assert found["threshold"].served_low > found["threshold"].served_high


def test_an_item_no_walk_tells_is_held_under_both_its_values():
    one = drawn([0.0, 5.0, 8.0])
    noisy = shifted("noise", one, LOSS, (3.0, -3.0), (-3.0, 3.0))
    assert noisy.served_low == pytest.approx(one.meets(LOSS, -3.0).sum(axis=1).mean())
    assert noisy.served_high > noisy.served_low
