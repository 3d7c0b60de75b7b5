"""States of an antenna, and what the course of a trim says."""

import numpy as np
import pytest

from inchmark.core.antenna.match import Match, Sweep
from inchmark.core.antenna.states import FREE, METAL, RETUNED, states_cost
from inchmark.core.antenna.trim import Tried, notices


def resonant_at(f0_hz, q=10):
    f = np.linspace(800e6, 940e6, 141)
    x = 1j * 50 * q * (f / f0_hz - f0_hz / f)
    return Sweep(frequency_hz=f, reflection=x / (100 + x))


def test_metal_costs_and_retuning_gives_back():
    """A detuned series circuit: mismatch -10 log10(1 - |G|^2), by hand at 868 MHz."""
    sweeps = {FREE: resonant_at(868e6), METAL: resonant_at(830e6), RETUNED: resonant_at(866e6)}
    found = states_cost(sweeps, 868e6)
    x = 1j * 500 * (868 / 830 - 830 / 868)
    loss = Match(abs(x / (100 + x))).mismatch_loss_db
    assert found.metal_costs_db == pytest.approx(loss, abs=1e-6)
    assert found.retuning_gives_db == pytest.approx(loss, abs=0.05)
    assert found.moved_hz == pytest.approx(-38e6, abs=1e6)
    assert [one.state for one in found.matches] == [FREE, METAL, RETUNED]


def test_a_state_that_is_not_swept_or_not_reached_says_nothing():
    found = states_cost({METAL: resonant_at(830e6)}, 868e6)
    assert (found.metal_costs_db, found.retuning_gives_db) == (None, None)
    assert states_cost({FREE: resonant_at(868e6)}, 2440e6).matches == ()


def tried(*rows):
    return [Tried(value=v, best_vswr=best, vswr_centre=centre) for v, best, centre in rows]


def test_a_trim_that_goes_wrong_is_told():
    assert notices(tried((8, 1.3, 3.0), (7, 1.3, 2.2), (6, 1.32, 1.6))) == []
    (worse,) = notices(tried((8, 1.3, 3.0), (7, 1.9, 2.2)))
    assert "1.30 to 1.90" in worse
    (still,) = notices(tried((8, 1.3, 1.5), (7, 1.3, 1.52), (6, 1.3, 1.51)))
    assert "not improved for two trials" in still
    assert notices(tried((8, 1.3, None))) == []
