"""What a difference in dB is worth, and which of several is ahead."""

import pytest

from inchmark.core.candidates import ahead, power_saved_share, price_per_db, range_factor


def test_six_db_double_the_range_in_free_space_and_not_over_ground():
    """10^(6/20) = 1.995, 10^(6/35) = 1.484 (textbook)."""
    assert range_factor(6.0, 2.0) == pytest.approx(1.995, abs=1e-3)
    assert range_factor(6.0, 3.5) == pytest.approx(1.484, abs=1e-3)
    with pytest.raises(ValueError, match="exponent"):
        range_factor(6.0, 0.0)


def test_three_db_save_half_of_the_power():
    assert power_saved_share(3.0103) == pytest.approx(0.5, abs=1e-5)
    assert power_saved_share(-3.0103) == pytest.approx(-1.0, abs=1e-4)


def test_a_db_has_a_price_only_where_one_is_gained():
    assert price_per_db(12.0, 3.0) == 4.0
    assert price_per_db(12.0, 0.0) is None


def test_who_is_ahead():
    assert ahead([1.0, None, 3.0, 3.0], 1) == [False, False, True, True]
    assert ahead([1.0, 2.0], -1) == [True, False]
    assert ahead([2.0, 2.0], 1) == [False, False]
    assert ahead([2.0, None], 1) == [False, False]
    assert ahead([1.0, 2.0], 0) == [False, False]
