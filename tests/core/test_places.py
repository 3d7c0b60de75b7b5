"""Places nobody stood at: drawn with the fit, known where the rig stood, marked outside the walk."""

import re
from dataclasses import replace

import numpy as np
import pytest

from inchmark.core.geodesy import Place, geodesic
from inchmark.core.reading.analysis import Walked, analyse_visits
from inchmark.core.reading.expected import NeededPlace, served_words
from inchmark.core.reading.measured import (
    MeasuredVisit,
    RigFacts,
    RigPrior,
    SiteFacts,
    StopFacts,
    TerrainFacts,
)
from inchmark.core.reading.places import served_places
from inchmark.core.reading.ranges import deciding
from inchmark.core.reading.reading import Asked, read_visits
from inchmark.core.reception.visit import VisitFrames, VisitKey, summarise_visit

FIXED = (47.0, -22.0)
DISTANCES = (40.0, 80.0, 160.0, 320.0, 640.0, 1000.0)
M_PER_DEG = 111_178.0  # of latitude at 47 degrees, near enough
SHADOW = {160.0: 6.0}


def spot(metres, *, south=False):
    return FIXED[0] + (-1 if south else 1) * metres / M_PER_DEG, FIXED[1]


def needed(name, metres, **more):
    there = spot(metres, **more)
    course = geodesic(
        Place(lat_deg=FIXED[0], lon_deg=FIXED[1]), Place(lat_deg=there[0], lon_deg=there[1])
    )
    return NeededPlace(name=name, spot=there, distance_m=course.distance_m)


def visit(rig, stop, metres, gain, random):
    level = -60 + gain - 32 * np.log10(metres / 40) + SHADOW.get(metres, 0) + random.normal(0, 1)
    levels = level + random.normal(0, 3, 120)
    heard = random.random(120) < 1 / (1 + np.exp(-(levels + 112)))
    frames = VisitFrames(
        seq=np.arange(120),
        heard=heard,
        rssi_dbm=np.where(heard, np.round(levels), np.nan),
        snr_db=np.full(120, np.nan),
        noise_dbm=np.full(120, np.nan),
        time_s=np.full(120, np.nan),
    )
    key = VisitKey(rig, stop, "", "", "")
    return MeasuredVisit(key=key, distance_m=metres, summary=summarise_visit(frames))


@pytest.fixture(scope="module")
def walked():
    random = np.random.default_rng(11)
    visits = [
        visit(rig, str(i), metres, gain, random)
        for i, metres in enumerate(DISTANCES)
        for rig, gain in (("A", 0.0), ("B", -14.0))
    ]
    return Walked(
        visits=tuple(visits),
        facts={rig: RigFacts(prior=RigPrior(sensitivity_dbm=-112)) for rig in "AB"},
        stops={str(i): StopFacts(spot=spot(metres)) for i, metres in enumerate(DISTANCES)},
        site=SiteFacts(),
    )


@pytest.fixture(scope="module")
def analysis(walked):
    return analyse_visits(walked)


def over(analysis, *places):
    by = {rig: deciding(analysis, rig) for rig in analysis.rigs}
    return {one.rig: one for one in served_places(analysis, by, places, FIXED)}


def test_the_nearer_place_and_the_stronger_rig_are_likelier_served(analysis):
    found = over(analysis, needed("near", 100), needed("far", 900))
    for one in found.values():
        near, far = one.places
        assert near.meets.estimate > far.meets.estimate
        assert near.level_dbm.estimate > far.level_dbm.estimate
    assert found["A"].places[1].meets.estimate > found["B"].places[1].meets.estimate
    assert found["A"].count.estimate >= found["B"].count.estimate


def test_where_the_rig_stood_its_own_frames_count(analysis):
    (own,) = over(analysis, needed("gate", 160))["A"].places
    (other,) = over(analysis, needed("hut", 190))["A"].places
    assert own.measured_at == "2"
    assert other.measured_at == ""
    index = next(
        i
        for i, v in enumerate(analysis.visits)
        if v.key.rig == "A" and v.key.stop == own.measured_at
    )
    measured = analysis.in_hand_db(index)
    assert own.in_hand_db.estimate == pytest.approx(measured.estimate, abs=0.3)
    width = own.level_dbm.high - own.level_dbm.low
    assert width < (other.level_dbm.high - other.level_dbm.low) / 2


def test_what_lies_outside_the_walk_is_marked_and_less_sure(analysis):
    found = over(
        analysis, needed("in", 500), needed("out", 3000), needed("back", 500, south=True),
        needed("door", 20),
    )["A"].places  # fmt: skip
    assert [one.extrapolated for one in found] == [
        (),
        ("farther than any stop",),
        ("in a direction that was not walked",),
        ("nearer than any stop",),
    ]
    widths = [one.in_hand_db.high - one.in_hand_db.low for one in found]
    assert widths[1] > widths[0]


def test_how_many_are_served_has_limits_of_its_own(analysis):
    places = [needed(str(i), metres) for i, metres in enumerate(np.geomspace(100, 1500, 9))]
    one = over(analysis, *places)["B"]
    assert one.count.low <= one.count.estimate <= one.count.high
    assert one.count.low < one.count.high
    hoped = sum(row.meets.estimate for row in one.places)
    assert abs(one.count.estimate - hoped) <= 1
    assert served_words(one).startswith(f"B: serves {one.count.estimate:.0f} of 9")
    assert re.search(r"least likely 8\S* \d+ %", served_words(one))


def test_shares_and_probabilities_stay_between_nought_and_one(analysis):
    for row in over(analysis, needed("a", 300), needed("b", 5000))["B"].places:
        for one in (row.share, row.meets):
            assert 0 <= one.low <= one.estimate <= one.high <= 1


def test_without_a_slope_or_a_threshold_nothing_is_claimed(walked):
    two = replace(walked, visits=walked.visits[:4], facts={})
    found = over(analyse_visits(two), needed("x", 300))
    for one in found.values():
        assert one.count is None
        assert one.places[0].level_dbm is None
        assert "cannot say" in served_words(one)


def test_stops_without_coordinates_lie_on_a_line(walked):
    plain = replace(walked, stops={name: StopFacts() for name in walked.stops})
    reading = read_visits(plain, asked=Asked(places=(needed("x", 300),), fixed=FIXED))
    row = reading.served[0].places[0]
    assert row.level_dbm is not None
    assert row.extrapolated == ()
    assert not read_visits(plain).served


def test_a_places_own_path_over_terrain_stands_in_for_the_curve(walked):
    """A rise before one of two gates at one distance: 15 dB more over terrain are 15 dB less in hand."""
    lg = np.geomspace(10, 3000, 60)
    curve = 31.2 + 34 * np.log10(lg)
    own = {
        str(i): float(31.2 + 34 * np.log10(m)) - SHADOW.get(m, 0) for i, m in enumerate(DISTANCES)
    }
    site = replace(
        walked.site,
        terrain=TerrainFacts(at_stops=own, distance_m=tuple(lg), loss_db=tuple(curve)),
    )
    analysis = analyse_visits(replace(walked, site=site))
    assert analysis.posterior.data.law.kind == "terrain"
    gate = needed("gate", 450)
    flat = float(31.2 + 34 * np.log10(gate.distance_m))
    found = over(
        analysis,
        replace(gate, path_db=flat),
        replace(gate, name="behind", path_db=flat + 15),
        replace(gate, name="unknown"),
    )["A"].places
    plain, behind, unknown = (one.in_hand_db.estimate for one in found)
    assert plain - behind == pytest.approx(15.0, abs=0.8)
    assert plain == pytest.approx(unknown, abs=0.8)


def test_places_before_any_visit_are_no_fault(walked):
    """A reading may be asked for while a log is still coming in."""
    nothing = replace(walked, visits=())
    reading = read_visits(nothing, asked=Asked(places=(needed("x", 300),), fixed=FIXED))
    assert not any(one.count for one in reading.served)
    assert not reading.rigs
