"""Cables, connectors, and limits of power and duty cycle."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inchmark.core.feed.connectors import Connector, Piece, chain_problems, connector_names, joint
from inchmark.core.feed.loss import Cable, feed_loss_db
from inchmark.core.limits import Emission, Limit, checks
from inchmark.formats.limits import limits

COAX = Cable(rows=[(100e6, 10.0), (400e6, 20.0), (900e6, 32.0)])


def test_loss_is_read_off_the_rows_and_grows_with_the_root_of_frequency_between():
    """Conductor loss by skin effect grows with the root of frequency (textbook)."""
    assert COAX.loss_db_per_100m(400e6) == 20.0
    assert COAX.loss_db_per_100m(225e6) == pytest.approx(15.0)  # halfway in the root
    assert COAX.loss_db_per_100m(25e6) == pytest.approx(5.0)
    assert COAX.loss_db_per_100m(3600e6) == pytest.approx(64.0)


@given(st.floats(1e6, 6e9), st.floats(1.001, 2))
def test_loss_never_falls_with_frequency_or_length(frequency, factor):
    higher = COAX.loss_db_per_100m(frequency * factor)
    assert higher >= COAX.loss_db_per_100m(frequency)
    one = feed_loss_db(COAX, frequency, length_m=2.0, joints=2)
    assert feed_loss_db(COAX, frequency, length_m=2.0 * factor, joints=2) >= one


def test_joints_alone_lose_a_tenth_of_a_decibel_each():
    assert feed_loss_db(None, 868e6, joints=3) == pytest.approx(0.3)


@pytest.mark.parametrize(
    "rows", [[], [(400e6, 20.0), (100e6, 10.0)], [(100e6, -1.0)], [(float("nan"), 1.0)]]
)
def test_a_cable_table_that_is_none_is_refused(rows):
    with pytest.raises(ValueError, match=r"rows must|frequency=|loss="):
        Cable(rows=rows)


def pair(a, b):
    return joint(Connector.from_key(a), Connector.from_key(b))


def test_a_plug_fits_its_socket():
    assert pair("sma-m", "sma-f").fits
    assert pair("rp-tnc-f", "rp-tnc-m").fits


def test_reverse_polarity_screws_together_and_makes_no_contact():
    empty = pair("rp-sma-m", "sma-f")
    assert not empty.fits
    assert "screw together, but hole meets hole" in empty.words
    assert "pin presses on pin" in pair("sma-m", "rp-sma-f").words


def test_an_adapter_is_named_that_fits_both_sides():
    found = pair("sma-f", "n-f")
    assert found.adapter == "adapter SMA male to N male"
    assert "another family" in found.words
    assert "two female bodies" in pair("sma-f", "sma-f").words


@given(st.sampled_from(sorted(connector_names())), st.sampled_from(sorted(connector_names())))
def test_a_joint_is_the_same_from_both_sides_and_a_mate_always_fits(a, b):
    one, other = Connector.from_key(a), Connector.from_key(b)
    assert joint(one, other).fits == joint(other, one).fits
    assert joint(one, one.mate).fits
    assert Connector.from_key(one.key) == one


def test_an_unknown_connector_is_refused():
    with pytest.raises(ValueError, match="is no connector"):
        Connector.from_key("garden-hose")


def test_a_chain_names_each_bad_joint_and_a_change_of_impedance():
    sma, hole = Connector.from_key("sma-f"), Connector.from_key("rp-sma-m")
    pieces = [
        Piece(name="module", near=None, far=Connector.from_key("micro-f")),
        Piece(name="lead", near=Connector.from_key("micro-m"), far=sma),
        Piece(name="whip", near=hole, far=None, impedance_ohm=75.0),
    ]
    words = [one.words for one in chain_problems(pieces)]
    assert len(words) == 2
    assert words[0].startswith("lead to whip: ")
    assert "50 Ω meets 75 Ω" in words[1]


def emission(frequency_mhz, conducted, gain=2.15, occupied=125e3):
    return Emission(
        frequency_hz=frequency_mhz * 1e6,
        occupied_hz=occupied,
        conducted_dbm=conducted,
        gain_dbi=gain,
    )


def test_a_dipole_radiates_its_power_as_erp():
    one = emission(868.3, 14.0)
    assert one.erp_dbm == pytest.approx(14.0)
    assert one.eirp_dbm == pytest.approx(16.15)


@pytest.mark.parametrize(
    ("mhz", "power", "duty", "fits"),
    [
        (868.3, 14.0, 0.9, True),
        (868.3, 14.0, 1.1, False),
        (868.3, 14.1, 0.9, False),
        (869.525, 27.0, 9.0, True),
        (868.9, 14.0, 0.5, False),
        (869.85, 7.0, 100.0, True),
        (869.85, 13.0, 0.9, True),
    ],
)
def test_the_european_rows_are_met_or_not(mhz, power, duty, fits):
    """ERC Recommendation 70-03, annex 1, from memory."""
    found = checks(limits(), emission(mhz, power), region="EU", duty_cycle_percent=duty)
    assert found[0].fits is fits


def test_a_channel_over_the_edge_of_a_band_is_in_none():
    at_edge = emission(868.6, 0.0)
    assert checks(limits(), at_edge, region="EU", duty_cycle_percent=0.1) == []
    assert checks(limits(), emission(600, 0.0), region="US", duty_cycle_percent=0.1) == []


def test_gain_over_six_dbi_comes_off_a_conducted_limit():
    """47 CFR 15.247 (b)(4), from memory: decibel for decibel."""
    wide = emission(915, 30.0, gain=6.0, occupied=600e3)
    assert checks(limits(), wide, region="US", duty_cycle_percent=50.0)[0].left_db == 0
    more = emission(915, 30.0, gain=9.0, occupied=600e3)
    found = checks(limits(), more, region="US", duty_cycle_percent=50.0)
    assert max(one.left_db for one in found) == pytest.approx(-3.0)


def test_every_row_names_its_document_and_where_it_is_known_from():
    rows = limits()
    assert {row.region for row in rows} == {"EU", "US"}
    for row in rows:
        assert isinstance(row, Limit)
        assert row.document
        assert row.from_memory
        assert row.low_hz < row.high_hz
