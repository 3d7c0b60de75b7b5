"""Whether RSSI counts in dB: told from S/N, believed when the evidence says so, and undone."""

import numpy as np
import pytest

from inchmark.core.reading.analysis import Walked
from inchmark.core.reading.measured import MeasuredVisit, RigFacts, RigPrior, SiteFacts, StopFacts
from inchmark.core.reading.reading import Asked, read_visits
from inchmark.core.reading.rssi_slope import LEAST_INSIDE, slopes_of, straightened
from inchmark.core.reception.visit import VisitFrames, VisitKey, summarise_visit

NOISE_DBM = -118.0


def visit(level_dbm, *, slope=1.0, frames=100, seed=0, error_db=0.8, top_db=60.0):
    random = np.random.default_rng([seed, int(-level_dbm)])
    level = random.normal(level_dbm, 3, frames)
    told = level - NOISE_DBM + random.normal(0, error_db, frames)
    return summarise_visit(
        VisitFrames(
            seq=np.arange(frames),
            heard=np.ones(frames, dtype=bool),
            rssi_dbm=np.round(NOISE_DBM + slope * (level - NOISE_DBM)),
            snr_db=np.minimum(np.round(4 * told) / 4, top_db),
            noise_dbm=np.full(frames, NOISE_DBM),
            time_s=np.full(frames, np.nan),
        )
    )


def slope_of(visits, links=None):
    return slopes_of(visits, ["m"] * len(visits), links or ["A"] * len(visits)).get("m")


LEVELS = (-70, -78, -86, -92, -98, -104)


@pytest.mark.parametrize("true", [0.85, 0.9, 1.1])
def test_a_slope_that_is_off_is_found_and_believed(true):
    found = slope_of([visit(level, slope=true) for level in LEVELS])
    assert found.believed
    assert found.slope.low < true < found.slope.high
    assert found.visits == len(LEVELS)


@pytest.mark.parametrize("seed", range(8))
def test_a_true_scale_is_not_called_off(seed):
    found = slope_of([visit(level, seed=seed) for level in LEVELS])
    assert not found.believed
    assert found.slope.low < 1 < found.slope.high


def test_one_strong_visit_of_few_frames_tells_nothing():
    assert slope_of([visit(-90, frames=LEAST_INSIDE // 2)]) is None


def test_visits_whose_snr_has_stopped_rising_do_not_count():
    capped = [visit(level, top_db=9.0) for level in (-60, -66, -72)]
    assert slope_of([*capped, *(visit(level, top_db=9.0) for level in (-116, -119))]).visits == 2


def test_offsets_between_links_are_no_slope():
    one = [visit(level) for level in LEVELS]
    other = [visit(level - 6, seed=3) for level in LEVELS]
    found = slope_of([*one, *other], ["A"] * 6 + ["B"] * 6)
    assert not found.believed


def test_a_straightened_visit_is_on_the_true_scale_and_keeps_its_mean_reading():
    visits = [visit(level, slope=0.85) for level in LEVELS]
    found, true = slope_of(visits), [visit(level) for level in LEVELS]
    for bent, right in zip(visits, true, strict=True):
        straight = straightened(bent, found)
        off = 3 * found.relative_sd * (right.level_mean_dbm - NOISE_DBM)
        assert straight.level_mean_dbm == pytest.approx(right.level_mean_dbm, abs=off + 0.3)
        assert straight.rssi_mean_dbm == bent.rssi_mean_dbm
        assert (straight.sent, straight.heard) == (bent.sent, bent.heard)


def reading(slope, module):
    distances = 30.0 * 1.6 ** np.arange(len(LEVELS))
    visits = tuple(
        MeasuredVisit(key=VisitKey("A", str(i)), distance_m=d, summary=visit(level, slope=slope))
        for i, (d, level) in enumerate(zip(distances, LEVELS, strict=True))
    )
    walked = Walked(
        visits=visits,
        facts={"A": RigFacts(prior=RigPrior(module_type=module, sensitivity_dbm=-110))},
        stops={v.key.stop: StopFacts() for v in visits},
        site=SiteFacts(),
    )
    return read_visits(walked, asked=Asked(check=True))


@pytest.mark.parametrize(("module", "named"), [("Kelp 4", "Kelp 4"), ("", "What hears A")])
def test_a_reading_says_the_slope_and_computes_with_true_levels(module, named):
    bent, true = reading(0.85, module), reading(1.0, module)
    note = next(one for one in bent.notes if one.code == "rssi_slope")
    assert named in note.title
    assert bent.check.rssi_slopes[0].applied
    assert not true.check.rssi_slopes[0].applied
    assert "rssi_slope" not in {one.code for one in true.notes}
    raw = 0.85 * true.site.exponent.estimate
    assert abs(bent.site.exponent.estimate - true.site.exponent.estimate) < 0.5 * abs(
        raw - true.site.exponent.estimate
    )


def test_levels_carry_the_doubt_of_the_slope_they_were_brought_to_db_with():
    bent, true = reading(0.85, "m"), reading(1.0, "m")
    wide, narrow = (one.visits[0].level_dbm for one in (bent, true))
    assert wide.high - wide.low > narrow.high - narrow.low
