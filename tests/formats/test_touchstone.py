"""One-port sweeps as analysers write them, and everything else that ends in .s1p."""

import math

import numpy as np
import pytest

from inchmark.core.antenna.trim import Trial, next_trial
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.touchstone import read_touchstone, touchstone_text

HALF_DB = 20 * math.log10(0.5)


def read(text):
    return read_touchstone(text.encode()).sweep


@pytest.mark.parametrize(
    "text",
    [
        "# MHz S RI R 50\n868 0.5 0\n870 0 0.5\n",
        "! made on the bench\n# mhz s ri r 50\n\n868\t5e-1\t0 ! marker\n870 0 .5\n",
        "# GHz S MA R 50\r\n0.868 0.5 0\r\n0.870 0.5 90\r\n",
        f"# Hz S DB R 50\n868000000 {HALF_DB} 0\n870000000 {HALF_DB} 90\n",
        "# MHz S RI R 50\n870 0 0.5\n868 0.5 0\n",
        "# ri R 50 s MHZ ! any order (Touchstone 1.1)\n868 0.5 0\n870 0 0.5\n",
        "#\tMHz\tRI\n868 0.5 0\n870 0 0.5\n",
        "\ufeff# MHz S RI R 50\n868 0.5 0\n870 0 0.5\n",
    ],
)
def test_units_formats_comments_and_order_are_all_one(text):
    sweep = read(text)
    np.testing.assert_allclose(sweep.frequency_hz, [868e6, 870e6])
    np.testing.assert_allclose(sweep.reflection, [0.5, 0.5j], atol=1e-9)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no points"),
        ("hello\n", "“hello” is no number"),
        ("# MHz S RI R 50\n! nothing\n", "no points"),
        ("# MHz S RI R 50\n868 0.5 0\n", "one point"),
        ("# MHz S RI R 50\n868 0.5 0\n870 0.5\n", "may have been cut off"),
        ("# MHz S RI R 50\n868 0.5 0\n870 nan 0\n", "Point 2 is not a possible reading"),
        ("# MHz S RI R 50\n868 0.5 0\n-870 0.1 0\n", "not a possible reading"),
        ("# MHz S RI R 50\n868 0.5 zero\n", "“zero” is no number"),
        ("# MHz S RI R 50\n868 0.5 0\n868 0.5 0\n", "must ascend"),
        ("# MHz S XY R 50\n868 0.5 0\n870 0.5 0\n", "could not be read"),
    ],
)
def test_what_is_no_one_port_sweep_says_why(text, words):
    with pytest.raises(UnreadableFileError) as caught:
        read(text)
    assert words in str(caught.value)


def test_more_back_than_was_sent_is_pointed_out():
    found = read_touchstone(b"# MHz S RI R 50\n868 1.3 0\n870 0.5 0\n")
    assert [one for one in found.remarks if "1.3 times" in one and "calibration" in one]
    assert read_touchstone(b"# MHz S RI R 50\n868 1.01 0\n870 0.5 0\n").remarks == ()


def test_what_is_no_option_is_refused_by_its_name():
    with pytest.raises(UnreadableFileError, match=r"illegal frequency_unit parsecs\. Export"):
        read("# parsecs S RI R 50\n868 0.5 0\n870 0 0.5\n")


def test_a_workbook_is_no_sweep():
    with pytest.raises(UnreadableFileError, match="zip archive"):
        read_touchstone(b"PK\x03\x04")


def test_the_next_trial_lies_on_the_line_through_the_nearest_two():
    trials = [Trial(value=90, best_hz=830e6), Trial(value=86, best_hz=850e6)]
    found = next_trial(trials, 858e6)
    assert (found.value, found.held_back) == (pytest.approx(84.4), False)
    assert found.hz_per_unit == pytest.approx(-5e6)


def test_a_far_off_wish_is_held_back_to_half_the_tried_span():
    trials = [Trial(value=90, best_hz=830e6), Trial(value=86, best_hz=850e6)]
    found = next_trial(trials, 950e6)
    assert (found.value, found.held_back) == (84.0, True)


def test_one_trial_or_a_change_that_moved_nothing_tells_no_next():
    assert next_trial([Trial(value=90, best_hz=830e6)], 868e6) is None
    same = [Trial(value=90, best_hz=830e6), Trial(value=86, best_hz=830e6)]
    assert next_trial(same, 868e6) is None


def test_a_lost_option_line_and_decimal_commas_are_read_and_said():
    """Touchstone's default without an option line: GHz S MA R 50 (IBIS Open Forum)."""
    found = read_touchstone(b"0,868 0,5 0\n0,870 0,5 90\n")
    np.testing.assert_allclose(found.sweep.frequency_hz, [868e6, 870e6])
    np.testing.assert_allclose(found.sweep.reflection, [0.5, 0.5j], atol=1e-9)
    assert "decimal commas" in found.remarks[0]
    assert "GHz S MA R 50" in found.remarks[1]


def test_what_is_written_is_read_back():
    f, g = np.array([868e6, 869e6, 870e6]), np.array([0.1 + 0.2j, -0.3j, 0.25])
    sweep = read_touchstone(touchstone_text(f, g, comment="µ bench").encode()).sweep
    np.testing.assert_allclose(sweep.frequency_hz, f)
    np.testing.assert_allclose(sweep.reflection, g, atol=1e-9)


def test_repeats_of_one_value_are_one_trial_and_their_scatter_is_no_slope():
    same = [Trial(value=90, best_hz=830e6), Trial(value=90.001, best_hz=836e6)]
    assert next_trial([same[0], Trial(value=90, best_hz=836e6)], 868e6) is None
    close = [*same, Trial(value=86, best_hz=834e6)]
    assert next_trial(close, 868e6) is None
    clear = [*same, Trial(value=86, best_hz=853e6)]
    assert next_trial(clear, 858e6).hz_per_unit == pytest.approx(-5e6, rel=1e-3)
