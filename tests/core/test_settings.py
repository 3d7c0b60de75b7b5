"""Settings of every modulation, settings strings, and two ends side by side."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inchmark.core.airtime.chirp import ChirpSetting
from inchmark.core.airtime.packets import ieee802154_airtime_s
from inchmark.core.airtime.setting import (
    FIXED_BIT_RATE,
    RadioSetting,
    carson_bandwidth_hz,
    problems,
    unusual,
)
from inchmark.core.console.reading import ModuleLimits, beyond, differences, read_string
from inchmark.core.console.template import TemplateError, read_template
from tests import strategies as our

FOUR = read_template("{sf},{bw:code},{cr:code},{preamble}")
GFSK = {
    "modulation": "gfsk",
    "frequency_hz": 868e6,
    "bandwidth_hz": 150e3,
    "payload_bytes": 16,
    "preamble": 5,
}
CHIRP = {"modulation": "chirp", "frequency_hz": 868e6, "bandwidth_hz": 125e3, "payload_bytes": 16}


@pytest.mark.parametrize(
    "text",
    [
        "AT+RFCFG=8,7,3,14",
        "+CFG: 8, 7, 3, 14 OK",
        "radio1> set 8,7,3,14;",
        "[8,7,3,14]",
        'cfg="8,7,3,14" saved',
        "$CFG,8,7,3,14*5C",
    ],
)
def test_any_words_before_and_after_a_string_are_passed_over(text):
    assert read_string(FOUR, text).values == read_string(FOUR, "8,7,3,14").values


@pytest.mark.parametrize("text", ["1, 8, 7, 3, 14", "8, 7, 3, 14, 2", "8,7,3", "8 7 3 14 9 OK"])
def test_a_value_too_many_or_few_is_never_passed_over(text):
    with pytest.raises(TemplateError, match="does not fit"):
        read_string(FOUR, text)


def test_what_lies_beyond_the_module_is_told():
    template = read_template("{frequency:MHz},{sf},{bw:kHz},{power}")
    limits = ModuleLimits(power_dbm=(-9, 14), bands_hz=((863e6, 870e6),))
    assert beyond(read_string(template, "868.1,9,125,14"), limits) == []
    said = " ".join(beyond(read_string(template, "915,9,110,20"), limits))
    assert "20 dBm is outside the module's -9 to 14 dBm" in said
    assert "915 MHz is in none" in said
    assert "110 kHz is no bandwidth" in said


def test_a_field_that_is_not_there_is_doubted():
    template = read_template("{sf},{bw:code},{cr:code},{preamble}")
    said = " ".join(read_string(template, "9,7,1,0").unusual)
    assert "Perhaps there is no preamble in this string" in said


def test_the_short_spreading_factors_have_a_longer_sync_and_no_header_bits_in_the_first_block():
    """From memory: 6.25 symbols of sync and 8 PL - 4 SF + 16 CRC + 20 header bits at SF5, SF6."""
    five = ChirpSetting(spreading_factor=5, bandwidth_hz=125e3)
    assert five.preamble_time_s == pytest.approx(14.25 * 32 / 125e3)
    # 8 * 10 - 20 + 16 + 20 = 96 bits in blocks of 20 make 5 blocks of 5 symbols
    assert five.payload_symbols(10) == 8 + 25


@given(our.payloads, st.sampled_from(["chirp", "gfsk", *FIXED_BIT_RATE]))
def test_airtime_grows_with_the_payload(payload, modulation):
    def seconds(size):
        return RadioSetting(
            modulation=modulation,
            frequency_hz=868e6,
            bandwidth_hz=125e3,
            spreading_factor=9,
            bit_rate_bit_s=50e3,
            payload_bytes=size,
        ).airtime_s

    if modulation == "oqpsk":
        payload = min(payload, 115)
    assert seconds(payload + 1) >= seconds(payload)


@given(st.integers(5, 11), our.payloads)
def test_a_slower_spreading_factor_takes_longer_and_hears_weaker(sf, payload):
    fast = RadioSetting(**CHIRP | {"payload_bytes": payload}, spreading_factor=sf)
    slow = RadioSetting(**CHIRP | {"payload_bytes": payload}, spreading_factor=sf + 1)
    assert slow.airtime_s > fast.airtime_s
    assert slow.sensitivity_dbm(6.0) < fast.sensitivity_dbm(6.0)


@pytest.mark.parametrize(
    ("modulation", "rate", "bandwidth"),
    [
        ("oqpsk", 250e3, 2e6),
        ("le_1m", 1e6, 1e6),
        ("le_2m", 2e6, 2e6),
        ("le_coded_s8", 125e3, 1e6),
        ("le_coded_s2", 500e3, 1e6),
    ],
)
def test_standards_fix_rate_and_bandwidth(modulation, rate, bandwidth):
    """IEEE 802.15.4 (2450 MHz O-QPSK) and Core Specification Vol 6 Part A, recalled."""
    one = RadioSetting(
        modulation=modulation, frequency_hz=2.44e9, bandwidth_hz=1.0, payload_bytes=10
    )
    assert (one.rate_bit_s, one.noise_bandwidth_hz) == (rate, bandwidth)


def test_carsons_rule_is_twice_deviation_plus_half_the_rate():
    """Textbook: 25 kHz deviation at 50 kbit/s (25 kHz fundamental) take 100 kHz."""
    assert carson_bandwidth_hz(50e3, 25e3) == 100e3


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"modulation": "chirp", "spreading_factor": None}, "from 5 to 12"),
        ({"modulation": "chirp", "spreading_factor": 7, "bandwidth_hz": 900e3}, "7.8 to 500 kHz"),
        ({"modulation": "gfsk"}, "needs a bit rate"),
        ({"modulation": "oqpsk", "payload_bytes": 120}, "0 to 116 bytes"),
    ],
)
def test_an_impossible_setting_says_why(wrong, words):
    assert words in " ".join(problems(RadioSetting(**CHIRP | wrong)))


@pytest.mark.parametrize(
    ("setting", "words"),
    [
        (CHIRP | {"spreading_factor": 12, "low_data_rate": False}, "from 16 ms on it is needed"),
        (CHIRP | {"spreading_factor": 7, "low_data_rate": True}, "only costs bit rate"),
        (CHIRP | {"spreading_factor": 6}, "implicit header only"),
        (CHIRP | {"spreading_factor": 7, "preamble": 4}, "is short"),
        (CHIRP | {"spreading_factor": 7, "bandwidth_hz": 100e3}, "none of the usual"),
        (CHIRP | {"spreading_factor": 7, "bandwidth_hz": 31250.0}, "over a quarter"),
        (GFSK | {"bit_rate_bit_s": 100e3, "deviation_hz": 50e3}, "Carson's rule"),
        (GFSK | {"bit_rate_bit_s": 50e3, "deviation_hz": 5e3}, "under minimum shift"),
        (GFSK | {"bit_rate_bit_s": 50e3}, "No deviation is given"),
        (GFSK | {"bit_rate_bit_s": 50e3, "deviation_hz": 45e3}, "ppm apart the receiver needs"),
    ],
)
def test_an_odd_setting_is_pointed_out(setting, words):
    assert words in " ".join(unusual(RadioSetting(**setting)))


def test_a_plain_setting_has_nothing_odd():
    assert unusual(RadioSetting(**CHIRP, spreading_factor=7)) == []
    fine = GFSK | {"bit_rate_bit_s": 50e3, "deviation_hz": 25e3}
    assert unusual(RadioSetting(**fine)) == []


def test_a_string_becomes_named_fields():
    found = read_string(FOUR, "8,6,3,14")
    assert found.values == {"sf": 8, "bw": 62500, "cr": 7, "preamble": 14}
    assert [one.shown for one in found.named] == ["8", "62.5 kHz", "7", "14"]
    assert "sets no transmit power" in " ".join(found.unusual)


def test_swapped_values_are_recognised_by_where_they_fit():
    assert "are they swapped" in " ".join(read_string(FOUR, "6,8,3,14").unusual)
    with pytest.raises(TemplateError, match="Value 3 fits the preamble"):
        read_string(FOUR, "8,6,14,3")


def test_units_own_codes_text_around_and_skipped_positions_are_read():
    template = read_template("AT+P={power},{_},{bw:0=125k;1=250k},{frequency:MHz},{sync}")
    found = read_string(template, "at+p=14, 99, 1, 868.3, 0x34")
    assert found.values == {"power": 14, "bw": 250e3, "frequency": 868.3e6, "sync": 0x34}
    assert found.named[-1].shown == "0x34"


def test_a_long_symbol_asks_for_low_data_rate_optimisation():
    assert "low-data-rate optimisation is needed" in " ".join(read_string(FOUR, "12,7,1,8").unusual)
    template = read_template("{sf},{bw:kHz},{ldro},{power}")
    assert read_string(template, "12,125,1,14").unusual == ()


def test_a_data_rate_too_wide_for_the_bandwidth_is_said():
    template = read_template("{bitrate:kbit/s},{deviation:kHz},{bw:kHz},{power}")
    assert "does not go with it" in " ".join(read_string(template, "100,50,150,10").unusual)
    assert read_string(template, "50,25,150,10").unusual == ()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "Write a template like"),
        ("{sf},{speed}", "“speed” is no field"),
        ("{sf},{sf}", "twice"),
        ("{sf},{preamble:code}", "no usual codes"),
        ("{sf:furlong}", "neither a unit nor"),
        ("{bw:7=fast}", "is no code"),
        ("{sf},{bw", "not closed"),
        ("{sf}" * 60, "characters at most"),
    ],
)
def test_a_wrong_template_says_what_to_write(text, words):
    with pytest.raises(TemplateError, match=words):
        read_template(text)


@pytest.mark.parametrize(
    ("text", "words"),
    [("8,6,3", "3 were found"), ("8,x,3,14", "“x” is no code"), ("a,6,3,14", "a number")],
)
def test_a_wrong_string_says_where(text, words):
    with pytest.raises(TemplateError, match=words):
        read_string(FOUR, text)


def test_two_ends_must_agree_in_what_breaks_the_link():
    template = read_template("{sf},{bw:kHz},{cr},{power},{header}")
    ours = read_string(template, "8,125,5,14,1")
    found = {d.name: d for d in differences(ours, read_string(template, "9,125,7,10,1"))}
    assert found["spreading factor"].fatal
    assert not found["coding rate 4/x"].fatal
    assert not found["transmit power"].fatal
    assert "bandwidth" not in found


def test_without_a_header_the_coding_rate_must_agree_too():
    template = read_template("{sf},{cr},{header}")
    ours, theirs = (read_string(template, text) for text in ("8,5,0", "8,6,0"))
    assert differences(ours, theirs)[0].fatal
    assert differences(ours, ours) == []


def test_bpsk_of_802_15_4_is_known_in_both_bands():
    """IEEE 802.15.4: 20 kbit/s at 868 MHz, 40 kbit/s at 915 MHz; 6 octets before the PSDU."""
    octets = 30
    slow = ieee802154_airtime_s(psdu_bytes=octets, phy="ieee802154_bpsk_868")
    fast = ieee802154_airtime_s(psdu_bytes=octets, phy="ieee802154_bpsk_915")
    assert slow == pytest.approx(36 * 8 / 20e3)
    assert fast == pytest.approx(36 * 8 / 40e3)
