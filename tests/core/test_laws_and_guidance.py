"""Path laws, where to stand next, what the model says of itself."""

from dataclasses import replace

import numpy as np
import pytest

from inchmark.core.link_model.data import LinkKey
from inchmark.core.link_model.law import ONE_SLOPE, over_ground, two_slopes
from inchmark.core.reading.analysis import Walked, analyse_visits
from inchmark.core.reading.bearings import bearings_of
from inchmark.core.reading.guidance import ENOUGH, GO_ON, WILL_NOT, Looked, guidance_of
from inchmark.core.reading.laws import break_matters, ground_law
from inchmark.core.reading.measured import (
    ReceiverFacts,
    RigFacts,
    RigPrior,
    SiteFacts,
    StopFacts,
    direction_of,
)
from inchmark.core.reading.model_check import check_of
from inchmark.core.reading.ranges import deciding
from inchmark.core.reading.reading import Asked, read_visits
from inchmark.core.reading.rules import RangeRules
from tests.core.test_reading import OUT, walk

FLAT = SiteFacts(frequency_hz=868e6, fixed_height_m=8.0, carried_height_m=1.5)
FACTS = {r: RigFacts(prior=RigPrior(module_type="one", sensitivity_dbm=-112)) for r in "AB"}


def walked(visits, site=None, stops=None):
    return Walked(visits=tuple(visits), facts=FACTS, stops=stops or {}, site=site or SiteFacts())


@pytest.fixture(scope="module")
def analysis():
    return analyse_visits(walked(walk(OUT)))


def test_the_break_distance_is_that_of_the_textbook():
    """4 h1 h2 / wavelength: 8 m and 1.5 m at 868 MHz, 139 m."""
    assert FLAT.break_m == pytest.approx(4 * 8 * 1.5 / 0.34538, rel=1e-4)
    assert SiteFacts().break_m is None
    assert break_matters(FLAT, [50, 1000])
    assert not break_matters(FLAT, [400, 1000])
    assert not break_matters(FLAT, [5, 60])


@pytest.mark.parametrize("law", [ONE_SLOPE, two_slopes(139.0), ground_law(FLAT)])
def test_every_law_is_measured_from_the_centre_and_rises_far_out(law):
    d, slopes = np.geomspace(20, 5000, 40), np.array(law.prior_mean)
    loss = law.basis(d, 200.0) @ slopes + law.known_db(d, 200.0)
    at = law.basis(np.array(200.0), 200.0) @ slopes + law.known_db(np.array(200.0), 200.0)
    assert at == pytest.approx(0, abs=1e-9)
    assert np.all(np.diff(loss[d > 300]) > 0)


def test_the_ground_law_steepens_from_two_to_four_beyond_the_break():
    law = ground_law(FLAT)
    for metres, slope in ((40.0, 20), (4000.0, 40)):
        step = law.known_db(np.array(metres * 1.5), 100.0) - law.known_db(np.array(metres), 100.0)
        assert step / np.log10(1.5) == pytest.approx(slope, abs=8)
    beyond = law.known_db(np.array([1e6, 1e7]), 100.0)
    assert beyond[1] - beyond[0] == pytest.approx(40, abs=1)  # it goes on as it ends


def test_a_known_curve_is_read_between_and_beyond_its_points():
    law = over_ground(np.array([10.0, 100.0]), np.array([50.0, 90.0]))
    assert law.known_db(np.array(31.6228), 10.0) == pytest.approx(20, abs=1e-3)
    assert law.known_db(np.array(1000.0), 10.0) == pytest.approx(80, abs=1e-9)


def test_laws_are_weighed_where_the_break_matters_and_said():
    reading = read_visits(walked(walk(OUT), site=FLAT))
    (note,) = [one for one in reading.notes if one.code == "ground_break"]
    assert "139 m" in note.title
    assert "one slope" in note.text
    assert reading.of_rig("A").loss_range_m is not None
    plain = read_visits(walked(walk(OUT)))
    assert "ground_break" not in {one.code for one in plain.notes}


def test_the_plans_word_for_open_ground_weighs_more():
    def weight(open_ground):
        site = SiteFacts(
            frequency_hz=868e6, fixed_height_m=8.0, carried_height_m=1.5, open_ground=open_ground
        )
        laws = analyse_visits(walked(walk(OUT), site=site)).laws
        kinds = [one.posterior.data.law.kind for one in laws.fits]
        return dict(zip(kinds, laws.weights, strict=True))["ground"]

    assert weight(True) > 3 * weight(False)


def guided(analysis, **looked):
    by = {rig: deciding(analysis, rig) for rig in analysis.rigs}
    return guidance_of(analysis, by, Looked(**looked))


def test_a_further_stop_narrows_and_a_wished_for_difference_decides(analysis):
    found = guided(analysis, wanted_db=1.0)
    assert found.half_width_after < found.half_width
    assert found.about == "B against A"
    # six decibels were put in: more than one for sure, and more than five not yet
    assert found.verdict == ENOUGH
    assert guided(analysis, wanted_db=5.9).verdict in (GO_ON, WILL_NOT)
    low, high = min(OUT) / 2, max(OUT) * 2
    assert all(low * 0.99 <= d <= high * 1.01 for d, _ in found.curve)


def test_a_planned_stop_is_taken_where_it_is_as_good(analysis):
    plain = guided(analysis, wanted_db=5.9)
    planned = guided(analysis, wanted_db=5.9, planned=(("9", plain.next_m * 1.02),))
    assert planned.next_label == "9"
    assert "stop 9" in planned.sentence


def test_four_stops_claim_nothing_however_sure():
    few = analyse_visits(walked(walk(OUT[:4])))
    assert guided(few, wanted_db=0.1).verdict != ENOUGH


def test_a_single_rig_is_guided_to_its_range():
    alone = analyse_visits(walked([v for v in walk(OUT) if v.key.rig == "A"]))
    found = guided(alone, wanted_factor=1.01)
    assert (found.in_db, found.about) == (False, "the range of A")
    assert found.verdict == WILL_NOT
    assert "will not settle" in found.sentence


def test_what_guidance_expects_is_what_a_stop_brings():
    """The expected half-width after one more stop against the one measured, over six walks."""
    ratios = []
    for seed in range(6):
        before = analyse_visits(walked(walk(OUT[:5], seed=seed)))
        expected = guided(before, planned=(("x", 800.0),), wanted_db=0.1)
        after = analyse_visits(walked(walk((*OUT[:5], 800), seed=seed)))
        half = dict(expected.curve)
        near = min(half, key=lambda d: abs(np.log(d / 800)))
        ratios.append(guided(after, wanted_db=0.1).half_width / half[near])
    assert 0.75 < np.median(ratios) < 1.3


def test_the_check_finds_nothing_in_a_walk_the_model_made(analysis):
    by = {rig: deciding(analysis, rig) for rig in analysis.rigs}
    check = check_of(analysis, by)
    assert check.visits == 12
    assert check.outside <= 3
    assert check.residual_slope_db.low < 0 < check.residual_slope_db.high


def test_bearings_are_a_finding_only_where_sectors_truly_differ():
    centre = (47.5, -21.0)
    stops, visits = {}, []
    for i, visit in enumerate(walk(tuple(np.geomspace(60, 600, 12)))):
        east = i // 2 % 2 == 0
        metres = visit.distance_m / 75_200
        stops[visit.key.stop] = StopFacts(spot=(47.5, -21.0 + (metres if east else -metres)))
        visits.append(visit)
    site = SiteFacts(receivers=(ReceiverFacts(spot=centre),))
    even = bearings_of(analyse_visits(walked(visits, site=site, stops=stops)))
    assert not even.found
    assert [one.stops for one in even.sectors] == [6, 6]
    assert bearings_of(analyse_visits(walked(visits))) is None


@pytest.mark.parametrize(
    ("text", "direction"),
    [
        ("to_fixed", "to_fixed"),
        ("Uplink", "to_fixed"),
        ("to carried", "to_carried"),
        ("down", "to_carried"),
        ("reply", "replies"),
        ("sideways", "sideways"),
        ("", ""),
    ],
)
def test_directions_go_by_one_name(text, direction):
    assert direction_of(text) == direction


def test_a_rule_may_ask_for_one_direction_or_one_receiver():
    visits = []
    for visit in walk(OUT):
        for receiver in ("mast", "barn"):
            key = type(visit.key)(
                rig=visit.key.rig, stop=visit.key.stop, direction="", receiver=receiver
            )
            visits.append(type(visit)(key=key, distance_m=visit.distance_m, summary=visit.summary))
    best = read_visits(walked(visits)).of_rig("A")
    assert best.range_words.startswith("at its best receiver")
    named = read_visits(walked(visits), rules=RangeRules(receiver="barn")).of_rig("A")
    assert (named.receiver, named.range_words) == ("barn", "")
    any_ = read_visits(walked(visits), rules=RangeRules(receiver="any")).of_rig("A")
    assert any_.range_words == "heard by any receiver"
    assert any_.loss_range_m.estimate >= 0.97 * best.loss_range_m.estimate


def test_a_visit_alone_or_silent_gives_words_never_an_error():
    one = walk(OUT[:1])
    assert read_visits(walked(one)).why_no_fit
    dead = list(walk((5000, 9000)))
    reading = read_visits(walked(dead), asked=Asked(curves=True, check=True, looked=Looked()))
    assert reading.why_no_fit
    assert reading.guidance is None
    assert {LinkKey(o.rig) for o in reading.links} == {LinkKey("A"), LinkKey("B")}


def test_the_same_stops_read_again_are_no_second_look(analysis):
    """97.5 % at two looks in a row counts looks with more stops each, not readings."""
    first = guided(analysis, wanted_db=4.3)
    assert 0.5 < first.sure < 0.99
    sure = replace(first, sure=0.98, stops=first.stops)
    again = guided(analysis, wanted_db=4.3, before=sure)
    assert again.sure_before is None
    fewer = replace(first, sure=0.98, stops=first.stops - 1)
    assert guided(analysis, wanted_db=4.3, before=fewer).sure_before == 0.98
    kept = replace(first, sure=0.5, sure_before=0.98)
    assert guided(analysis, wanted_db=4.3, before=kept).sure_before == 0.98
    other = replace(fewer, about="C against A")
    assert guided(analysis, wanted_db=4.3, before=other).sure_before is None


def test_each_sites_own_noise_moves_every_range_and_difference():
    """B's visits were six decibels louder: at its own noise it reaches less far, in all rules."""
    visits = []
    for visit in walk(OUT):
        louder = -111.5 if visit.key.rig == "B" else -117.5
        for direction in ("to_fixed", "to_carried"):
            key = replace(visit.key, direction=direction)
            summary = replace(visit.summary, noise_mean_dbm=louder, change=None)
            visits.append(replace(visit, key=key, summary=summary))
    given = replace(walked(visits), reference_noise_dbm=-117.5)
    asked = Asked(needed_m=150)
    equal, own = (
        read_visits(given, rules=RangeRules(own_noise=choice), asked=asked)
        for choice in (False, True)
    )
    slope = equal.site.exponent.estimate
    less = 10 ** (-6 / (10 * slope))
    a, b = equal.of_rig("B"), own.of_rig("B")
    assert b.loss_range_m.estimate / a.loss_range_m.estimate == pytest.approx(less, rel=0.03)
    assert b.in_hand_range_m.estimate / a.in_hand_range_m.estimate == pytest.approx(less, rel=0.03)
    fall = a.needed.in_hand_db.estimate - b.needed.in_hand_db.estimate
    assert fall == pytest.approx(6, abs=0.1)
    legs = [{one.rig: one.range_m.estimate for one in r.exchanges} for r in (equal, own)]
    assert legs[1]["B"] / legs[0]["B"] == pytest.approx(less, rel=0.05)
    assert own.of_rig("A").loss_range_m == equal.of_rig("A").loss_range_m
    before, after = equal.main_differences[0].margin_db, own.main_differences[0].margin_db
    assert before.estimate - after.estimate == pytest.approx(6, abs=0.1)
