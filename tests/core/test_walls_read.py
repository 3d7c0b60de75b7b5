"""Walks among walls: what they cost is learnt, places stand behind their own, and what is left out is said."""

from dataclasses import replace

import numpy as np
import pytest
from bench.walls import FIXED, FREQUENCY_HZ, House, spot

from inchmark.core.deciding.effects import Spots
from inchmark.core.deciding.influence import influences
from inchmark.core.link_model.law import ONE_SLOPE, beside_walls, on_way, two_slopes
from inchmark.core.reading.analysis import analyse_visits
from inchmark.core.reading.expected import NeededPlace
from inchmark.core.reading.measured import ReceiverFacts, StopFacts
from inchmark.core.reading.place_draws import PlaceDraws
from inchmark.core.reading.places import served_places
from inchmark.core.reading.ranges import deciding
from inchmark.core.reading.reading import Asked, read_visits
from inchmark.core.reading.taught import losses_of
from inchmark.core.reading.walled import losses_to_spots, wall_facts

ONE = {"": FREQUENCY_HZ}
HERE = (FIXED.lat_deg, FIXED.lon_deg)


@pytest.fixture(scope="module")
def house():
    return House(4)


@pytest.fixture(scope="module")
def walked(house):
    return house.walked()


@pytest.fixture(scope="module")
def analysis(walked):
    return analyse_visits(walked)


def test_a_wall_is_one_more_slope_of_any_law():
    at = {("", "", "1"): 7.0, ("", "r2", "1"): 3.0, ("B", "", "1"): 9.0}
    one = beside_walls(ONE_SLOPE, (1.0, 100.0), (0.0, 20.0), at, {"B": (0.0, 40.0)})
    d = np.array([10.0, 10.0, 10.0])
    assert one.basis(d, 10.0)[:, -1].tolist() == [10.0, 10.0, 10.0]
    ways = [("A", "", "1"), ("A", "r2", "1"), ("A", "unknown", "1"), ("B", "", "1"), ("A", "", "2")]
    d = np.full(5, 10.0)
    found = one.basis_at_stops(ways, d, 10.0)[:, -1]
    # one nobody has placed stands at the fixed end; of stop 2 only the curve is known
    assert found.tolist() == [7.0, 3.0, 7.0, 9.0, 10.0]
    assert one.of_rig("B").walls_along_db(np.array(10.0)) == pytest.approx(20.0)
    assert one.of_rig("A") is one
    assert one.name == "one slope beside walls"
    assert not one.plain
    both = beside_walls(two_slopes(50.0), (1.0, 100.0), (0.0, 20.0), {})
    assert len(both.prior_mean) == both.basis(d, 10.0).shape[1] == 3


def test_a_walk_learns_what_walls_cost(analysis, house):
    p = analysis.posterior
    assert p.data.law.walled
    assert analysis.laws.weights[0] > 0.5
    lat, lon = zip(*house.spots.values(), strict=True)
    said = house.walls.losses_db(FIXED, lat, lon, FREQUENCY_HZ)
    true = float(house.behind_db(list(house.spots.values())) @ said / (said @ said))
    low, high = np.quantile(p.wall_factor, (0.025, 0.975))
    assert low < true < high
    assert high - low < 4 * 0.4  # the walk narrows what was believed before it
    bare = next(f.posterior for f in analysis.laws.fits if not f.posterior.data.law.walled)
    assert np.median(p.shadowing_db) < np.median(bare.shadowing_db)


def test_a_place_stands_behind_its_own_walls(analysis, house, walked):
    by = {"A": deciding(analysis, "A")}
    clear, behind = (
        NeededPlace(name=name, spot=spot(20.0, 200.0), distance_m=20.0, walls_db={("", ""): db})
        for name, db in (("clear", 0.0), ("behind", 20.0))
    )
    (served,) = served_places(analysis, by, [clear, behind], HERE)
    levels = [one.level_dbm.estimate for one in served.places]
    factor = float(np.median(analysis.posterior.wall_factor))
    assert levels[0] - levels[1] == pytest.approx(20 * factor, abs=1.5)
    drawn = PlaceDraws.from_kept(served.drawn)
    assert np.median(drawn.wall_factor) == pytest.approx(factor, abs=0.02)
    wide = [one.level_dbm.high - one.level_dbm.low for one in served.places]
    assert wide[1] > wide[0]


def test_a_place_in_the_next_room_is_not_the_stop_beside_it(analysis, house):
    name, there = "9", house.spots["9"]
    known = on_way(analysis.site.walls.ways, "A", "", name)
    near = NeededPlace(name="n", spot=there, distance_m=float(house.regime.stops[9]))
    by = {"A": deciding(analysis, "A")}

    def measured_at(db):
        (served,) = served_places(analysis, by, [replace(near, walls_db={("", ""): db})], HERE)
        return served.places[0].measured_at

    assert measured_at(known) == name
    assert measured_at(known + 5.0) == ""


def test_what_other_spots_gain_is_weighed_by_what_walls_cost(analysis, house):
    by = {"A": deciding(analysis, "A")}
    place = NeededPlace(name="n", spot=spot(30.0, 90.0), distance_m=30.0, walls_db={("", ""): 12.0})
    (served,) = served_places(analysis, by, [place], HERE)
    draws = PlaceDraws.from_kept(served.drawn)
    nothing = np.zeros((1, 1))
    fewer = Spots(nearer_db=nothing, fixed_db=nothing, fewer_walls_db=np.array([[10.0]]))
    gained = fewer.typical(draws, 0) - draws.typical
    np.testing.assert_allclose(gained[:, 0], 10.0 * draws.wall_factor)
    assert "walls" in {one.item for one in influences(draws, 0.1)}
    without = replace(draws, walls=None)
    assert PlaceDraws.from_kept(without.kept()).walls is None
    assert "walls" not in {one.item for one in influences(without, 0.1)}


def codes(reading):
    return {one.code: one for one in reading.notes}


def test_the_reading_says_what_walls_cost_and_takes_them_off_what_it_teaches(walked):
    facts = {rig: replace(one, reference_dbm=-30.0) for rig, one in walked.facts.items()}
    site = replace(walked.site, needed_m=40.0)
    reading = read_visits(replace(walked, facts=facts, site=site), asked=Asked(needed_m=40.0))
    note = codes(reading)["walls_known"]
    assert "beside the walls" in note.text
    assert "of 12 stops lie behind one" in note.text
    assert reading.site.law == "one slope beside walls"
    assert dict(reading.site.walls_needed_db)["A"] > 0
    _, loss = losses_of(reading)["A"]
    whole = -30.0 - reading.of_rig("A").needed.level_dbm.estimate
    taken = dict(reading.site.walls_needed_db)["A"]
    assert loss.estimate == pytest.approx(whole - taken)


def test_walls_that_cannot_count_are_named_with_the_reason(house, walked):
    stops = dict(walked.stops)
    receivers = walked.site.receivers
    facts, why = wall_facts(house.walls, receivers, {**stops, "3": StopFacts()}, ONE)
    assert facts is None
    assert why == "stop 3 has no coordinates"
    assert "fixed end" in wall_facts(house.walls, (ReceiverFacts(),), stops, ONE)[1]
    assert "at which frequency" in wall_facts(house.walls, receivers, stops, {})[1]
    assert wall_facts(None, receivers, stops, {}) == (None, "")
    left = replace(walked, site=replace(walked.site, walls=None, walls_left=why))
    note = codes(read_visits(left))["walls_left"]
    assert note.text.startswith("Stop 3 has no coordinates.")


def test_walls_that_the_walk_does_not_show_are_said_to_be_left(walked):
    # levels without walls in them, beside walls said to cost 30 dB from stop to stop in turn
    bare = House(6)
    bare.true_db = np.zeros(len(bare.walls.walls))
    walked = bare.walked()
    ways = {("", "", str(i)): 30.0 * (i % 2) for i in range(12)}
    walls = replace(walked.site.walls, ways=ways)
    reading = read_visits(replace(walked, site=replace(walked.site, walls=walls)))
    assert reading.site.wall_factor is None
    assert "as if they were not there" in codes(reading)["walls_left"].text


def test_what_walls_cost_is_known_from_each_receiver(house):
    near = ReceiverFacts(name="r2", spot=spot(40.0, 10.0))
    receivers = (ReceiverFacts(spot=HERE), ReceiverFacts(name="nowhere"), near)
    (only,) = losses_to_spots(house.walls, receivers, [spot(40.5, 10.0)], ONE)
    assert set(only) == {("", ""), ("", "r2")}
    assert only["", "r2"] <= only["", ""]
    assert losses_to_spots(house.walls, receivers, [], ONE) == []


def test_rigs_of_other_frequencies_have_walls_of_their_own(house, walked):
    apart = {"A": 868e6, "B": 2.44e9}
    facts, why = wall_facts(house.walls, walked.site.receivers, walked.stops, apart)
    assert why == ""
    assert set(facts.by_rig) == {"A", "B"}
    assert sum(facts.by_rig["B"]) > sum(facts.by_rig["A"])  # concrete and brick cost more there
    analysis = analyse_visits(replace(walked, site=replace(walked.site, walls=facts)))
    # both rigs were heard alike, which walls of two frequencies do not explain
    assert not analysis.posterior.data.law.walled
    p = next(f.posterior for f in analysis.laws.fits if f.posterior.data.law.walled)
    low, high = (p.of_rig(rig).loss_db(40.0) for rig in "AB")
    at = np.array(40.0)
    curves = [p.data.law.of_rig(rig).walls_along_db(at) for rig in "AB"]
    np.testing.assert_allclose(high - low, p.wall_factor * (curves[1] - curves[0]))
    assert p.of_rig("unknown") is p
    (place,) = losses_to_spots(house.walls, walked.site.receivers, [spot(40.0, 90.0)], apart)
    assert place["B", ""] >= place["A", ""]


def test_a_rig_that_walls_cost_more_reaches_less_far_and_fewer_places():
    class TwoBands(House):
        def _mean(self, key, d, shadow, shared):
            more = super()._mean(key, d, shadow, shared)
            if key.rig == "B":  # at 2.44 GHz the same walls cost more
                lat, lon = zip(self.spots[key.stop], strict=True)
                crossed = self.walls.crossed(FIXED, lat, lon)[0]
                said = [
                    one.crossing_db(2.44e9) - one.crossing_db(868e6) for one in self.walls.walls
                ]
                more -= float(crossed @ said)
            return more

    house = TwoBands(4)
    walked, apart = house.walked(), {"A": 868e6, "B": 2.44e9}
    facts, _ = wall_facts(house.walls, walked.site.receivers, walked.stops, apart)
    analysis = analyse_visits(replace(walked, site=replace(walked.site, walls=facts)))
    p = analysis.posterior
    assert p.data.law.walled
    low, high = np.quantile(p.wall_factor, (0.025, 0.975))
    assert 0.2 < low < 1.0 < high + 0.5
    spots = losses_to_spots(house.walls, walked.site.receivers, [spot(40.0, 90.0)], apart)
    needed = NeededPlace(name="n", spot=spot(40.0, 90.0), distance_m=40.0, walls_db=spots[0])
    by = {rig: deciding(analysis, rig) for rig in "AB"}
    served = served_places(analysis, by, [needed], HERE)
    assert all(one.count is not None for one in served)
    assert by["A"].reach is not None
    assert by["B"].reach is not None
