"""What a walk teaches of its surroundings, and paths predicted by it elsewhere."""

import numpy as np
import pytest

from inchmark.core.prediction import Paths, Surroundings, predict_paths
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.propagation.kept import KeptLaw
from inchmark.core.reading.measured import RigFacts, RigPrior
from inchmark.core.reading.reading import Asked
from inchmark.core.reading.taught import taught_by
from tests.core.test_reading import read, walk

OUT = (30, 70, 150, 300, 500, 800)
FREQUENCY_HZ = 868e6
MARSH = KeptLaw(name="marsh", offset_db=14.0, at_m=100.0, exponent=3.4, shadowing_db=5.0)


def paths(*distances, frequency_hz=FREQUENCY_HZ):
    return Paths(
        distance_m=np.array(distances),
        height1_m=np.array(2.0),
        height2_m=np.array(1.5),
        frequency_hz=frequency_hz,
    )


@pytest.fixture(scope="module")
def reading():
    prior = RigPrior(module_type="one", sensitivity_dbm=-112)
    facts = {rig: RigFacts(prior=prior, reference_dbm=16.0) for rig in "AB"}
    return read(walk(OUT), facts, asked=Asked(needed_m=150))


def test_a_walk_teaches_slope_offset_and_spread_with_limits(reading):
    found = taught_by(reading, FREQUENCY_HZ)
    assert found.exponent == reading.site.exponent
    assert found.offset_db.low < found.offset_db.estimate < found.offset_db.high
    assert (found.at_m, found.stops, found.rigs) == (150, 6, ("A", "B"))
    losses = [16.0 - one.needed.level_dbm.estimate for one in reading.rigs]
    beyond = np.mean(losses) - float(free_space_loss_db(150, FREQUENCY_HZ))
    assert found.offset_db.estimate == pytest.approx(beyond)


def test_a_walk_of_rigs_without_a_budget_teaches_nothing():
    assert taught_by(read(walk(OUT), asked=Asked(needed_m=150)), FREQUENCY_HZ) is None


def test_a_kept_law_is_free_space_and_offset_there_and_its_slope_beyond():
    near, far = MARSH.loss_db([100.0, 1000.0], FREQUENCY_HZ)
    assert near == pytest.approx(float(free_space_loss_db(100, FREQUENCY_HZ)) + 14)
    assert far - near == pytest.approx(34)


def test_a_site_is_predicted_by_a_kept_law_and_says_so():
    found = predict_paths(paths(100, 400), Surroundings(model="kept", kept=MARSH))
    assert found.loss_db == pytest.approx(MARSH.loss_db([100, 400], FREQUENCY_HZ))
    assert found.at(0).parts[0][0] == "As walked in marsh"
    assert found.at(0).warnings == ()


def test_another_frequency_moves_free_space_and_leaves_the_offset():
    one, other = (
        predict_paths(paths(200, frequency_hz=f), Surroundings(model="kept", kept=MARSH)).loss_db[0]
        for f in (434e6, 868e6)
    )
    assert other - one == pytest.approx(20 * np.log10(2))


def test_a_kept_model_without_its_law_is_refused():
    with pytest.raises(ValueError, match="kept"):
        Surroundings(model="kept")
