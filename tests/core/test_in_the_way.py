"""What is in the way and on the air: sheets, rain, beams, collisions, each against another way to it."""

import cmath
import math

import numpy as np
import pytest

from inchmark.core.airtime.collisions import Traffic
from inchmark.core.antenna.beam import SPHERE_DEG2, beam_across_m, beam_gain_dbi, pointing_loss_db
from inchmark.core.propagation.materials import MATERIALS, Material, Sheet
from inchmark.core.propagation.rain import rain_holds_at, rain_law

LIGHT = 299_792_458.0


def chain(sheet, f, incidence_deg, crossed):
    """Loss and reflection of a sheet [dB] by the chain matrix of a line between two lines."""
    eta, turned = sheet.material.permittivity(f), math.radians(incidence_deg)
    root = cmath.sqrt(eta - math.sin(turned) ** 2)
    air = 1 / math.cos(turned) if crossed else math.cos(turned)  # impedance over that of free space
    inside = 1 / root if crossed else root / eta
    way = 2 * math.pi * f / LIGHT * sheet.thickness_m * root
    a, b, c = cmath.cos(way), 1j * inside * cmath.sin(way), 1j * cmath.sin(way) / inside
    whole = 2 * a + b / air + c * air
    through, back = 2 / whole, (b / air - c * air) / whole
    return -20 * math.log10(abs(through)), -20 * math.log10(abs(back))


@pytest.mark.parametrize("name", ["concrete", "brick", "wood", "glass", "chipboard"])
@pytest.mark.parametrize(("incidence_deg", "crossed"), [(0, True), (50, True), (50, False)])
def test_a_sheet_agrees_with_the_chain_matrix(name, incidence_deg, crossed):
    sheet = Sheet(
        material=MATERIALS[name], thickness_m=0.07, incidence_deg=incidence_deg, crossed=crossed
    )
    for f in (4.33e8, 8.68e8, 2.44e9):
        loss, back = chain(sheet, f, incidence_deg, crossed)
        assert sheet.loss_db(f) == pytest.approx(loss, abs=1e-9)
        assert sheet.reflection_db(f) == pytest.approx(back, abs=1e-9)


def test_a_sheet_of_nothing_takes_nothing():
    nothing = Material(name="nothing", a=1, b=0, c=0, d=0, from_ghz=1, to_ghz=100)
    sheet = Sheet(material=nothing, thickness_m=0.3)
    assert sheet.loss_db(1e9) == pytest.approx(0, abs=1e-12)
    assert sheet.face_loss_db(1e9) == 0
    assert sheet.reflection_db(1e9) == math.inf
    assert nothing.attenuation_db_per_m(1e9) == 0


def test_without_loss_what_does_not_pass_comes_back():
    clear = Material(name="clear", a=4, b=0, c=0, d=0, from_ghz=1, to_ghz=100)
    sheet = Sheet(material=clear, thickness_m=0.031, incidence_deg=20)
    shares = [10 ** (-db / 10) for db in (sheet.loss_db(2e9), sheet.reflection_db(2e9))]
    assert sum(shares) == pytest.approx(1, abs=1e-12)


def test_where_the_document_states_a_material():
    assert not MATERIALS["concrete"].holds_at(8.68e8)
    assert MATERIALS["wood"].holds_at(8.68e8)


@pytest.mark.parametrize(("thickness_m", "incidence_deg"), [(0, 0), (-1, 0), (0.1, 90), (0.1, -1)])
def test_sheets_that_cannot_be_are_refused(thickness_m, incidence_deg):
    with pytest.raises(ValueError, match=r"thickness_m|incidence_deg"):
        Sheet(material=MATERIALS["wood"], thickness_m=thickness_m, incidence_deg=incidence_deg)


@pytest.mark.parametrize(  # ITU-R P.838-3, table 5: k and alpha, horizontal and vertical
    ("ghz", "across", "upright"),
    [
        (1, (0.0000259, 0.9691), (0.0000308, 0.8592)),
        (4, (0.0001071, 1.6009), (0.0002461, 1.2476)),
        (10, (0.01217, 1.2571), (0.01129, 1.2156)),
    ],
)
def test_rain_agrees_with_the_printed_table(ghz, across, upright):
    for tilt, (k, alpha) in ((0, across), (90, upright)):
        law = rain_law(ghz * 1e9, tilt_deg=tilt)
        assert law.k == pytest.approx(k, rel=2e-3)
        assert law.alpha == pytest.approx(alpha, abs=1e-4)


def test_rain_is_negligible_where_these_modules_work():
    assert rain_law(2.44e9).attenuation_db_per_km(150) < 0.04
    assert rain_law(8.68e8).attenuation_db_per_km(50) < 0.002
    assert rain_law(8.68e8).attenuation_db_per_km(0) == 0
    assert not rain_holds_at(8.68e8)
    assert rain_holds_at(2.44e9)


def test_circular_polarisation_lies_between():
    both = [rain_law(1e10, tilt_deg=tilt).attenuation_db_per_km(25) for tilt in (0, 45, 90)]
    assert both == sorted(both, reverse=True)


def test_a_beam_of_the_whole_sphere_has_no_gain():
    assert beam_gain_dbi(360, SPHERE_DEG2 / 360, deg2=SPHERE_DEG2) == pytest.approx(0, abs=1e-12)


def test_half_the_width_beside_the_axis_costs_three_decibels():
    assert pointing_loss_db(15, 30) == pytest.approx(3)
    assert pointing_loss_db(-15, 30, 20, 40) == pytest.approx(6)


def test_a_beam_of_ninety_degrees_is_twice_as_wide_as_far():
    assert beam_across_m(90, 100) == pytest.approx(200)
    with pytest.raises(ValueError, match="width_deg"):
        beam_across_m(180, 100)


def test_frames_that_nobody_overlaps_agree_with_a_simulation():
    traffic = Traffic(senders=6, airtime_s=0.4, period_s=10)
    random = np.random.default_rng(7)
    starts = random.uniform(0, 10, (200_000, 6))
    apart = np.abs(starts[:, 1:] - starts[:, :1])
    apart = np.minimum(apart, 10 - apart)
    seen = float(np.mean(np.all(apart >= 0.4, axis=1)))
    assert traffic.success_at_random_phases() == pytest.approx(seen, abs=0.004)
    times = random.poisson(5 * 0.08, 200_000)
    assert traffic.success_at_random_times() == pytest.approx(float(np.mean(times == 0)), abs=0.004)


def test_the_endless_population_carries_eighteen_percent_at_most():
    best = Traffic(senders=50, airtime_s=0.1, period_s=10)
    assert best.throughput(best.success_of_many()) == pytest.approx(1 / (2 * math.e))
    for senders in (40, 60):
        other = Traffic(senders=senders, airtime_s=0.1, period_s=10)
        assert other.throughput(other.success_of_many()) < 1 / (2 * math.e)


def test_one_sender_meets_nobody_and_a_full_air_lets_nothing_through():
    assert Traffic(senders=1, airtime_s=1, period_s=1.5).success_at_random_phases() == 1
    assert Traffic(senders=3, airtime_s=0.6, period_s=1).success_at_random_phases() == 0
    with pytest.raises(ValueError, match="senders"):
        Traffic(senders=0, airtime_s=1, period_s=2)
