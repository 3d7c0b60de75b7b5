"""How figures read."""

import pytest

from inchmark.core import wording
from inchmark.core.interval import Interval


@pytest.mark.parametrize(
    ("metres", "words"),
    [
        (0.5, "50 cm"),
        (0.082, "82 mm"),
        (0.4, "40 cm"),
        (0.125, "12.5 cm"),
        (0.9996, "1 m"),
        (0.0, "0 m"),
        (25, "25 m"),
        (481.6, "482 m"),
        (999.4, "999 m"),
        (999.6, "1 km"),
        (1419, "1.42 km"),
        (12_345, "12.3 km"),
        (250_000, "250 km"),
        (2.5, "2.5 m"),
        (60.0, "60 m"),
    ],
)
def test_distances_have_three_figures_at_most(metres, words):
    assert wording.distance(metres) == words


def test_the_minus_is_a_true_one_and_zero_has_no_sign():
    assert wording.level(-104.86) == "\N{MINUS SIGN}104.9 dBm"
    assert wording.decibels(4.21) == "+4.2 dB"
    assert wording.number(-0.04) == "0.0"


@pytest.mark.parametrize(
    ("share", "words"),
    [(0, "0 %"), (0.001, "under 1 %"), (0.62, "62 %"), (0.999, "over 99 %"), (1, "100 %")],
)
def test_a_share_that_is_not_quite_all_or_nothing_says_so(share, words):
    assert wording.percent(share) == words


def test_lists_and_plurals_read_as_spoken():
    assert wording.listed(["A", "B", "C"]) == "A, B and C"
    assert wording.plural(1, "frame") == "1 frame"
    assert wording.plural(2000, "frame") == "2\N{NARROW NO-BREAK SPACE}000 frames"


def test_limits_stand_in_order():
    with pytest.raises(ValueError, match="low"):
        Interval(2, 1)
