"""Positions of frames: their middle and scatter, and what they add to a stop's distance."""

import numpy as np
import pytest

from inchmark.core.geodesy import Place, destination
from inchmark.core.reading.analysis import Walked, analyse_visits
from inchmark.core.reading.measured import (
    MeasuredVisit,
    ReceiverFacts,
    RigFacts,
    RigPrior,
    SiteFacts,
    StopFacts,
)
from inchmark.core.reading.positions import USUAL_FIX_M, walked_to
from inchmark.core.reading.reading import read_visits
from inchmark.core.reception.position import Position, position_of
from inchmark.core.reception.visit import VisitFrames, VisitKey, summarise_visit

FIXED = (53.4, 5.2)
DISTANCES = (50, 100, 200, 400, 800)


def fixes(metres, scatter_m=0.0, frames=60, bearing_deg=30.0, seed=0):
    random = np.random.default_rng(seed)
    start = Place(lat_deg=FIXED[0], lon_deg=FIXED[1])
    places = [
        destination(start, bearing_deg, metres + random.normal(0, scatter_m)) for _ in range(frames)
    ]
    return np.array([p.lat_deg for p in places]), np.array([p.lon_deg for p in places])


def visit(stop, metres, lat, lon):
    random, n = np.random.default_rng(int(metres)), 60
    level = -40 - 30 * np.log10(metres) / 1.2 + random.normal(0, 3, n)
    frames = VisitFrames(
        seq=np.arange(n),
        heard=level > -110,
        rssi_dbm=np.where(level > -110, level, np.nan),
        snr_db=np.full(n, np.nan),
        noise_dbm=np.full(n, np.nan),
        time_s=np.full(n, np.nan),
        lat_deg=lat,
        lon_deg=lon,
    )
    summary = summarise_visit(frames)
    return MeasuredVisit(key=VisitKey("A", stop), distance_m=float(metres), summary=summary)


def walked(*, at=DISTANCES, scatter_m=0.0, spot=FIXED, positions=True):
    none = (np.full(60, np.nan),) * 2
    visits = tuple(
        visit(str(i), metres, *(fixes(there, scatter_m, seed=i) if positions else none))
        for i, (metres, there) in enumerate(zip(DISTANCES, at, strict=True))
    )
    return Walked(
        visits=visits,
        facts={"A": RigFacts(prior=RigPrior(module_type="m", sensitivity_dbm=-110))},
        stops={v.key.stop: StopFacts() for v in visits},
        site=SiteFacts(receivers=(ReceiverFacts(name="", spot=spot),)),
    )


def test_the_middle_of_fixes_is_not_moved_by_one_that_jumped():
    lat, lon = fixes(200.0, 3.0)
    lat[5], lon[5] = 0.0, 0.0  # no fix
    lat[7] += 1.0
    found = position_of(lat, lon)
    assert found.frames == 59
    there = walked_to([found], FIXED)
    assert there.distance_m == pytest.approx(200, abs=2)
    assert there.scatter_m == pytest.approx(3, abs=1.5)


def test_frames_without_positions_say_nothing():
    assert position_of(None, None) is None
    assert position_of(np.array([np.nan, 0.0]), np.array([5.0, 0.0])) is None
    assert walked_to([], FIXED) is None


def test_without_coordinates_of_the_fixed_end_the_scatter_stands():
    one = Position(frames=9, lat_deg=53.4, lon_deg=5.2, east_sd_m=3.0, north_sd_m=4.0)
    found = walked_to([one], None)
    assert found.distance_m is None
    assert found.sd_m(100) == pytest.approx(np.sqrt((9 + 16) / 2))


def test_a_middle_within_what_a_fix_errs_adds_nothing():
    one = Position(frames=9, lat_deg=53.4, lon_deg=5.2, east_sd_m=0.0, north_sd_m=0.0)
    found = walked_to([one], FIXED)
    assert found.sd_m(USUAL_FIX_M - 1) == pytest.approx(0, abs=1e-6)


def test_positions_enter_the_variance_of_the_stops_distance():
    rows = analyse_visits(walked(at=(50, 100, 260, 400, 800))).rows
    sds = {row.stop: row.distance_sd_m for row in rows}
    assert sds["2"] == pytest.approx(60 - USUAL_FIX_M, abs=1)
    assert sds["1"] == pytest.approx(0, abs=0.2)


def test_scattered_positions_widen_the_slope():
    def width(**of):
        found = read_visits(walked(**of)).site.exponent
        return found.high - found.low

    assert width(scatter_m=25.0) > width(positions=False)
    assert width() == pytest.approx(width(positions=False), rel=0.02)


@pytest.mark.parametrize(
    ("of", "words"),
    [
        ({"at": (50, 100, 300, 400, 800)}, "were at 300 m by their positions"),
        ({"scatter_m": 30.0}, "positions of its frames scatter by"),
    ],
)
def test_a_note_names_stops_whose_positions_contradict_or_scatter(of, words):
    notes = [one for one in read_visits(walked(**of)).notes if one.code == "distance_doubtful"]
    assert len(notes) == 1
    assert words in notes[0].text
