"""Loops that couple: the factor, the power handed over, and the gain that stands in for it."""

import pytest

from inchmark.core.antenna.loops import coupling, handed_over_db, loop_gain_dbi
from inchmark.core.propagation.inductive import coupled_loss_db


def test_coupling_of_two_loops():
    """r = 5 cm both, d = 10 cm: 0.05^4 / (0.05 (0.01 + 0.0025)^1.5) = 0.0894 (by hand)."""
    assert coupling(0.10, 0.05, 0.05) == pytest.approx(0.0894, abs=1e-4)
    far, farther = (
        handed_over_db(coupling(1.0, 0.05, 0.05)),
        handed_over_db(coupling(10.0, 0.05, 0.05)),
    )
    assert far - farther == pytest.approx(60.0, abs=0.1)
    assert handed_over_db(1.0) == 0.0


@pytest.mark.parametrize("frequency_hz", [125e3, 13.56e6])
@pytest.mark.parametrize(("r1", "r2"), [(0.05, 0.05), (0.15, 0.02)])
def test_gains_in_a_budget_give_what_the_coupling_gives(frequency_hz, r1, r2):
    """At 0.8 m, far from both loops and well inside the near field of 13.56 MHz (3.5 m)."""
    loss = float(coupled_loss_db(0.8, frequency_hz))
    gains = loop_gain_dbi(r1, frequency_hz) + loop_gain_dbi(r2, frequency_hz)
    assert gains - loss == pytest.approx(handed_over_db(coupling(0.8, r1, r2)), abs=0.5)
