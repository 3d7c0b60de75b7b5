"""Laws that hold for every value, not copies of the formulas."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from inchmark.cli.reference.formulas import fade_margin_db, location_probability
from inchmark.core import decibels, geodesy
from inchmark.core.airtime.chirp import ChirpSetting
from inchmark.core.airtime.duty_cycle import messages_per_hour, min_interval_s
from inchmark.core.airtime.packets import (
    gfsk_airtime_s,
    ieee802154_airtime_s,
    low_energy_airtime_s,
)
from inchmark.core.antenna.lengths import far_field_distance_m, wire_length_m
from inchmark.core.antenna.match import Match, Sweep
from inchmark.core.antenna.polarisation import polarisation_loss_db
from inchmark.core.budget import End, EndName, allowed_path_loss_db, link_budget
from inchmark.core.energy import Battery, Load, Phase
from inchmark.core.noise import chirp_snr_limit_db, noise_floor_dbm, sensitivity_dbm
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.propagation.log_distance import LogDistanceLaw, range_factor
from tests import strategies as our


@given(our.levels_dbm, st.floats(-25, 30))
def test_taking_noise_off_never_raises_a_level(level, snr):
    assert decibels.signal_from_signal_plus_noise_dbm(level, snr) <= level


@given(our.levels_dbm)
def test_at_zero_snr_half_of_the_power_is_noise(level):
    signal = decibels.signal_from_signal_plus_noise_dbm(level, 0.0)
    assert level - signal == pytest.approx(10 * math.log10(2))


@given(our.distances_m, our.frequencies_hz)
def test_doubling_the_distance_adds_six_decibels_in_free_space(distance, frequency):
    added = free_space_loss_db(2 * distance, frequency) - free_space_loss_db(distance, frequency)
    assert added == pytest.approx(20 * math.log10(2))


@pytest.mark.parametrize("bad", [0, -1, math.nan, math.inf])
def test_free_space_refuses_distances_that_are_none(bad):
    with pytest.raises(ValueError, match="distance_m"):
        free_space_loss_db(bad, 868e6)
    with pytest.raises(ValueError, match="frequency_hz"):
        free_space_loss_db(1, bad)


def test_losses_broadcast_over_arrays():
    loss = free_space_loss_db(np.array([[10.0], [100.0]]), np.array([868e6, 2.4e9]))
    assert loss.shape == (2, 2)


@given(our.distances_m, our.frequencies_hz, our.exponents)
def test_a_log_distance_law_inverts(distance, frequency, exponent):
    law = LogDistanceLaw.from_free_space(frequency_hz=frequency, exponent=exponent)
    assert law.distance_m(law.loss_db(distance)) == pytest.approx(distance, rel=1e-9)


def test_a_law_without_loss_over_distance_is_refused():
    with pytest.raises(ValueError, match="exponent"):
        LogDistanceLaw(loss_at_reference_db=31, reference_m=1, exponent=0)


@given(st.floats(0, 30), st.floats(0, 30), our.exponents)
def test_range_factors_multiply_as_decibels_add(one, two, exponent):
    both = range_factor(one, exponent) * range_factor(two, exponent)
    assert range_factor(one + two, exponent) == pytest.approx(both)


@given(our.shares, st.floats(0.5, 12))
def test_the_fade_margin_buys_the_share_of_places_it_was_made_for(share, sigma):
    assert location_probability(fade_margin_db(share, sigma), sigma) == pytest.approx(share)


@pytest.mark.parametrize("share", [0.0, 1.0, 1.2])
def test_all_or_no_places_have_no_finite_margin(share):
    with pytest.raises(ValueError, match="share"):
        fade_margin_db(share, 6)


@given(our.spreading_factors, our.payloads)
def test_airtime_grows_with_payload_and_with_spreading_factor(factor, payload):
    setting = ChirpSetting(spreading_factor=factor, bandwidth_hz=125e3)
    assert setting.airtime_s(payload + 1) >= setting.airtime_s(payload)
    if factor < 12:
        slower = ChirpSetting(spreading_factor=factor + 1, bandwidth_hz=125e3)
        assert slower.airtime_s(payload) > setting.airtime_s(payload)
        assert slower.bit_rate_bit_s < setting.bit_rate_bit_s


@pytest.mark.parametrize(
    "wrong",
    [
        {"spreading_factor": 4},
        {"spreading_factor": 13},
        {"coding_rate_denominator": 9},
        {"bandwidth_hz": 0.0},
    ],
)
def test_a_chirp_setting_no_modem_has_is_refused(wrong):
    fine = {"spreading_factor": 7, "bandwidth_hz": 125e3}
    with pytest.raises(ValueError, match=next(iter(wrong))):
        ChirpSetting(**(fine | wrong))


def test_low_data_rate_can_be_forced_either_way():
    fine = {"spreading_factor": 12, "bandwidth_hz": 125e3}
    assert ChirpSetting(**fine).low_data_rate_used
    assert not ChirpSetting(**fine, low_data_rate=False).low_data_rate_used


@given(st.integers(0, 200), st.floats(1e3, 1e6))
def test_gfsk_airtime_is_bits_over_bit_rate(payload, rate):
    longer = gfsk_airtime_s(bit_rate_bit_s=rate, payload_bytes=payload + 1)
    shorter = gfsk_airtime_s(bit_rate_bit_s=rate, payload_bytes=payload)
    assert longer - shorter == pytest.approx(8 / rate)


def test_an_unknown_phy_is_named_in_the_refusal():
    with pytest.raises(ValueError, match="le_4m"):
        low_energy_airtime_s(phy="le_4m", payload_bytes=1)
    with pytest.raises(ValueError, match="chirp"):
        ieee802154_airtime_s(phy="chirp", psdu_bytes=1)


@given(st.floats(1e-4, 5), st.floats(0.1, 100))
def test_the_duty_cycle_is_never_broken(airtime, duty):
    assert messages_per_hour(airtime, duty) * airtime <= 36 * duty * (1 + 1e-9)
    assert min_interval_s(airtime, duty) >= airtime * (1 - 1e-12)


@given(st.floats(100, 1e7))
def test_ten_times_the_bandwidth_is_ten_decibels_more_noise(bandwidth):
    assert noise_floor_dbm(10 * bandwidth) - noise_floor_dbm(bandwidth) == pytest.approx(10)


def test_sensitivity_is_noise_plus_figure_plus_snr():
    level = sensitivity_dbm(bandwidth_hz=125e3, noise_figure_db=6, required_snr_db=-7.5)
    assert level == pytest.approx(noise_floor_dbm(125e3) - 1.5)
    with pytest.raises(ValueError, match="5 to 12"):
        chirp_snr_limit_db(4)


@given(our.levels_dbm, our.gains_dbi, our.losses_db, our.gains_dbi, st.floats(40, 160))
def test_a_budget_is_the_same_sum_in_any_order_and_both_directions(p, g1, f1, g2, path):
    one = End(
        name=EndName.CARRIED,
        transmit_power_dbm=p,
        threshold_dbm=-120,
        antenna_gain_dbi=g1,
        feed_loss_db=f1,
    )
    two = End(name=EndName.FIXED, transmit_power_dbm=p, threshold_dbm=-120, antenna_gain_dbi=g2)
    there = link_budget(one, two, path_loss_db=path, path_source="typed")
    back = link_budget(two, one, path_loss_db=path, path_source="typed")
    assert sum(i.adds_db for i in reversed(there.items)) == pytest.approx(there.arriving_dbm)
    assert there.in_hand_db == pytest.approx(back.in_hand_db)


def test_what_a_path_may_lose_is_the_whole_budget():
    end = End(name=EndName.FIXED, transmit_power_dbm=14, threshold_dbm=-120, antenna_gain_dbi=2)
    assert allowed_path_loss_db(end, end) == 138
    assert allowed_path_loss_db(end, end, keep_db=10) == 128


def test_a_feed_that_gains_is_refused():
    with pytest.raises(ValueError, match="feed_loss_db"):
        End(name=EndName.FIXED, transmit_power_dbm=14, threshold_dbm=-120, feed_loss_db=-1)


@given(st.floats(-80, 80), st.floats(-179, 179), st.floats(0, 359), st.floats(1, 20_000))
def test_walking_out_and_measuring_back_gives_the_distance_walked(lat, lon, azimuth, metres):
    start = geodesy.Place(lat_deg=lat, lon_deg=lon)
    end = geodesy.destination(start, azimuth, metres)
    assert geodesy.geodesic(start, end).distance_m == pytest.approx(metres, abs=1e-4)


def test_coordinates_off_the_globe_are_refused():
    with pytest.raises(ValueError, match="lat_deg"):
        geodesy.Place(lat_deg=91, lon_deg=0)


@given(st.floats(0, 0.999999))
def test_every_way_of_saying_a_match_says_the_same(magnitude):
    match = Match(magnitude)
    assert Match.from_vswr(match.vswr).reflection_magnitude == pytest.approx(magnitude, abs=1e-9)
    back = Match.from_mismatch_loss_db(match.mismatch_loss_db)
    assert back.reflection_magnitude == pytest.approx(magnitude, abs=1e-6)
    if magnitude > 1e-6:
        back = Match.from_return_loss_db(match.return_loss_db)
        assert back.reflection_magnitude == pytest.approx(magnitude)
    assert 0 <= match.mismatch_loss_db < math.inf


def test_a_perfect_and_a_hopeless_match_have_their_infinities():
    assert Match(0.0).return_loss_db == math.inf
    assert Match(1.0).vswr == Match(1.0).mismatch_loss_db == math.inf
    assert Match.from_vswr(math.inf).reflection_magnitude == 1


@pytest.mark.parametrize(
    ("make", "bad"),
    [
        (Match.from_vswr, 0.5),
        (Match.from_return_loss_db, -1.0),
        (Match.from_mismatch_loss_db, math.nan),
        (Match.from_impedance, complex(-5, 0)),
        (Match, 1.1),
    ],
)
def test_a_match_no_load_has_is_refused(make, bad):
    with pytest.raises(ValueError, match="must"):
        make(bad)


def _resonant_sweep():
    """A series circuit of 50 Ohm resonant at 868 MHz; Q 10: closed form of the -10 dB edges."""
    f = np.linspace(780e6, 960e6, 1801)
    x = 50 * 10 * (f / 868e6 - 868e6 / f)
    return Sweep(frequency_hz=f, reflection=(1j * x) / (100 + 1j * x))


def test_a_sweep_finds_resonance_and_the_matched_range_of_a_known_circuit():
    sweep = _resonant_sweep()
    assert sweep.frequency_hz[sweep.best] == pytest.approx(868e6, abs=1e5)
    low, high = sweep.matched_range_hz(10.0)
    # |G|^2 = 0.1 at |x| = 100 / 3; x = 500 (u - 1/u) with u = f / f0
    edge = 100 / 3 / 500
    assert high / 868e6 == pytest.approx(edge / 2 + math.sqrt(1 + edge**2 / 4), rel=1e-5)
    assert low * high == pytest.approx(868e6**2, rel=1e-5)


def test_a_sweep_is_read_between_its_points_and_never_beyond():
    sweep = _resonant_sweep()
    assert sweep.worst_vswr(863e6, 870e6) >= sweep.match_at(868e6).vswr
    with pytest.raises(ValueError, match="frequency_hz"):
        sweep.match_at(2.4e9)
    poor = Sweep(frequency_hz=sweep.frequency_hz, reflection=sweep.reflection * 0 + 0.5)
    assert poor.matched_range_hz(10.0) is None  # 6 dB everywhere


@pytest.mark.parametrize("f", [[1e9], [2e9, 1e9], [1e9, 1e9]])
def test_a_sweep_that_is_none_is_refused(f):
    with pytest.raises(ValueError, match=r"sweep|ascend"):
        Sweep(frequency_hz=np.array(f), reflection=np.zeros(len(f), dtype=complex))


@given(st.floats(0, 90))
def test_turning_an_antenna_away_never_helps(angle):
    straight = polarisation_loss_db("linear", "linear", angle_deg=angle)
    assert 0 <= straight <= polarisation_loss_db("linear", "linear", angle_deg=min(angle + 5, 90))
    assert polarisation_loss_db("linear", "rhcp") == pytest.approx(3.01, abs=0.005)


def test_unknown_polarisations_and_waves_are_named():
    with pytest.raises(ValueError, match="slanted"):
        polarisation_loss_db("slanted", "linear")
    with pytest.raises(ValueError, match="third"):
        wire_length_m(868e6, wave="third")


@given(our.frequencies_hz, st.floats(0.5, 1.0))
def test_a_half_wave_is_two_quarters(frequency, factor):
    quarter = wire_length_m(frequency, velocity_factor=factor)
    half = wire_length_m(frequency, wave="half", velocity_factor=factor)
    assert half == pytest.approx(2 * quarter)
    assert far_field_distance_m(half, frequency) == pytest.approx(half * factor)


@given(st.floats(1e-6, 0.01), st.floats(10, 3600), st.floats(0, 0.2))
def test_sending_less_often_never_shortens_a_battery(sleep, period, leak):
    def life(seconds, model):
        message = [Phase(duration_s=0.06, current_a=0.044)]
        load = Load(phases=message, sleep_current_a=min(sleep, 0.01), period_s=seconds)
        battery = Battery(capacity_ah=2.4, self_discharge_per_year=leak, model=model)
        return battery.life_h(load.average_current_a)

    for model in ("constant_current", "exponential"):
        assert life(2 * period, model) >= life(period, model)


def test_a_message_longer_than_its_period_is_refused():
    with pytest.raises(ValueError, match="period_s"):
        Load(phases=[Phase(duration_s=5, current_a=0.1)], sleep_current_a=0, period_s=2)
    with pytest.raises(ValueError, match="magic"):
        Battery(capacity_ah=1, model="magic")
    with pytest.raises(ValueError, match="current_a"):
        Phase(duration_s=1, current_a=-0.1)


def test_without_self_discharge_both_models_agree():
    lives = {
        Battery(capacity_ah=2, self_discharge_per_year=0, model=m).life_h(1e-4)
        for m in ("constant_current", "exponential")
    }
    assert lives == {2 * 0.85 / 1e-4}
