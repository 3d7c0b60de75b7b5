"""One firmware setting of any modulation: airtime, bit rate, what it needs, what is unusual in it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from inchmark.core.airtime.chirp import BANDWIDTHS_HZ, LOW_DATA_RATE_SYMBOL_TIME_S, ChirpSetting
from inchmark.core.airtime.packets import (
    gfsk_airtime_s,
    ieee802154_airtime_s,
    low_energy_airtime_s,
)
from inchmark.core.noise import chirp_snr_limit_db, sensitivity_dbm

CHIRP, GFSK, OQPSK = "chirp", "gfsk", "oqpsk"
FIXED_BIT_RATE = {
    OQPSK: 250e3,
    "le_1m": 1e6,
    "le_2m": 2e6,
    "le_coded_s8": 125e3,
    "le_coded_s2": 500e3,
}
FIXED_BANDWIDTH_HZ = {
    OQPSK: 2e6,
    "le_1m": 1e6,
    "le_2m": 2e6,
    "le_coded_s8": 1e6,
    "le_coded_s2": 1e6,
}
# S/N needed in the bandwidth above [dB]. GFSK: common practice at 0.1 % bit errors. Coded: the
# reference sensitivities of the Core Specification lie 12 and 5 dB below 1M (from memory).
REQUIRED_SNR_DB = {
    GFSK: 10.0,
    OQPSK: 1.0,
    "le_1m": 10.0,
    "le_2m": 10.0,
    "le_coded_s8": -2.0,
    "le_coded_s2": 5.0,
}
# Share of frames lost at that S/N. Chirp limits and IEEE 802.15.4 are stated at 1 % PER; Low Energy at
# 0.1 % bit errors, which the Core Specification counts as 30.8 % of its 37-octet packets; GFSK is
# common practice at the same bit errors (all from memory).
REQUIRED_SNR_LOSS = {CHIRP: 0.01, OQPSK: 0.01}
USUAL_SNR_LOSS = 0.308
MAC_OCTETS = 11  # IEEE 802.15.4 data frame, short addresses in one network: header 9, FCS 2
PSDU_OCTETS = 127
LONGEST_PAYLOAD = {OQPSK: PSDU_OCTETS - MAC_OCTETS}
SHORTEST_WITH_HEADER = 7
MINIMUM_SHIFT_INDEX = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class RadioSetting:
    """What a radio is set to. Frequencies [Hz], bit rate [bit/s], payload and preamble as set.

    `preamble` is in symbols for chirp and in bytes for GFSK; the others have their own.
    """

    modulation: str
    frequency_hz: float
    bandwidth_hz: float
    payload_bytes: int
    preamble: int = 8
    spreading_factor: int | None = None
    coding_rate: int = 5
    explicit_header: bool = True
    payload_crc: bool = True
    low_data_rate: bool | None = None
    bit_rate_bit_s: float | None = None
    deviation_hz: float | None = None
    ppm_both_ends: float = 20.0

    @property
    def chirp(self) -> ChirpSetting:
        """Return the setting as the chirp formulas know it."""
        return ChirpSetting(
            spreading_factor=self.spreading_factor or 7,
            bandwidth_hz=self.bandwidth_hz,
            coding_rate_denominator=self.coding_rate,
            preamble_symbols=self.preamble,
            explicit_header=self.explicit_header,
            payload_crc=self.payload_crc,
            low_data_rate=self.low_data_rate,
        )

    @property
    def airtime_s(self) -> float:
        """Return the time on air of one frame [s]."""
        if self.modulation == CHIRP:
            return self.chirp.airtime_s(self.payload_bytes)
        if self.modulation == GFSK:
            return gfsk_airtime_s(
                bit_rate_bit_s=self.rate_bit_s,
                payload_bytes=self.payload_bytes,
                preamble_bytes=self.preamble,
                crc_bytes=2 * self.payload_crc,
            )
        if self.modulation == OQPSK:
            return ieee802154_airtime_s(psdu_bytes=self.payload_bytes + MAC_OCTETS)
        return low_energy_airtime_s(phy=self.modulation, payload_bytes=self.payload_bytes)

    @property
    def rate_bit_s(self) -> float:
        """Return the information rate inside the payload [bit/s]."""
        if self.modulation == CHIRP:
            return self.chirp.bit_rate_bit_s
        return FIXED_BIT_RATE.get(self.modulation) or self.bit_rate_bit_s or 1.0

    @property
    def noise_bandwidth_hz(self) -> float:
        """Return the bandwidth whose noise the receiver takes in [Hz]."""
        return FIXED_BANDWIDTH_HZ.get(self.modulation, self.bandwidth_hz)

    @property
    def required_snr_db(self) -> float:
        """Return the S/N it needs in that bandwidth [dB]."""
        if self.modulation == CHIRP:
            return chirp_snr_limit_db(self.spreading_factor or 7)
        return REQUIRED_SNR_DB[self.modulation]

    @property
    def required_snr_loss(self) -> float:
        """Return the share of frames lost at that S/N."""
        return REQUIRED_SNR_LOSS.get(self.modulation, USUAL_SNR_LOSS)

    @property
    def occupied_hz(self) -> float:
        """Return the bandwidth on the air [Hz]; for GFSK by Carson's rule, both sidebands."""
        if self.modulation == GFSK:
            return carson_bandwidth_hz(self.rate_bit_s, self.deviation_hz or self.rate_bit_s / 4)
        return self.noise_bandwidth_hz

    def sensitivity_dbm(self, noise_figure_db: float) -> float:
        """Return k T B + noise figure [dB] + required S/N [dBm]."""
        return float(
            sensitivity_dbm(
                bandwidth_hz=self.noise_bandwidth_hz,
                noise_figure_db=noise_figure_db,
                required_snr_db=self.required_snr_db,
            )
        )


def carson_bandwidth_hz(bit_rate_bit_s: float, deviation_hz: float) -> float:
    """Return 2 (deviation + bit rate / 2) [Hz], Carson's rule with the bit rate's fundamental."""
    return 2 * (deviation_hz + bit_rate_bit_s / 2)


def problems(setting: RadioSetting) -> list[str]:
    """Return why no radio can be set so, in sentences; nothing if it can."""
    longest = LONGEST_PAYLOAD.get(setting.modulation, 255)
    found = []
    if not 0 <= setting.payload_bytes <= longest:
        found.append(f"The payload may hold 0 to {longest} bytes with this modulation.")
    if setting.modulation == CHIRP:
        found += _chirp_problems(setting)
    elif setting.modulation == GFSK and not setting.bit_rate_bit_s:
        found.append("GFSK needs a bit rate.")
    return found


def _chirp_problems(setting: RadioSetting) -> Iterator[str]:
    if setting.spreading_factor is None or not 5 <= setting.spreading_factor <= 12:
        yield "Chirp needs a spreading factor from 5 to 12."
    if not BANDWIDTHS_HZ[0] * 0.98 <= setting.bandwidth_hz <= BANDWIDTHS_HZ[-1] * 1.02:
        yield "A chirp bandwidth must be from 7.8 to 500 kHz."


def unusual(setting: RadioSetting) -> list[str]:
    """Return what works badly or not at all with most radios, in sentences."""
    if problems(setting):
        return []
    if setting.modulation == CHIRP:
        return list(_unusual_chirp(setting))
    if setting.modulation == GFSK:
        return list(_unusual_gfsk(setting))
    return []


def _unusual_chirp(setting: RadioSetting) -> Iterator[str]:
    chirp = setting.chirp
    bandwidth = setting.bandwidth_hz
    if not np.any(np.isclose(bandwidth, BANDWIDTHS_HZ, rtol=0.02)):
        yield f"{bandwidth / 1e3:g} kHz is none of the usual chirp bandwidths."
    needs = chirp.symbol_time_s >= LOW_DATA_RATE_SYMBOL_TIME_S
    symbol = f"a symbol lasts {chirp.symbol_time_s * 1e3:.1f} ms"
    if needs and setting.low_data_rate is False:
        yield f"Low-data-rate optimisation is off, but {symbol}: from 16 ms on it is needed."
    if not needs and setting.low_data_rate:
        yield f"Low-data-rate optimisation is forced on, but {symbol}: it only costs bit rate."
    if chirp.spreading_factor == SHORTEST_WITH_HEADER - 1 and setting.explicit_header:
        yield "Older modems know SF6 with an implicit header only (from memory)."
    if setting.preamble < 6:
        yield f"A preamble of {setting.preamble} symbols is short; 6 is the least most modems take."
    off = setting.frequency_hz * setting.ppm_both_ends * 1e-6
    if off > bandwidth / 4:
        yield (
            f"Crystals {setting.ppm_both_ends:g} ppm apart are {off / 1e3:.1f} kHz off, over a quarter of {bandwidth / 1e3:g} kHz (common practice): centre it, or use a TCXO."
        )


def _unusual_gfsk(setting: RadioSetting) -> Iterator[str]:
    rate = setting.rate_bit_s
    if setting.deviation_hz is None:
        yield "No deviation is given; a quarter of the bit rate is taken."
    elif 2 * setting.deviation_hz / rate < MINIMUM_SHIFT_INDEX * 0.98:
        yield (
            f"The modulation index is {2 * setting.deviation_hz / rate:.2f}, under minimum shift (0.5): sensitivity suffers."
        )
    needed = setting.occupied_hz
    if needed > setting.bandwidth_hz * 1.001:
        yield (
            f"The receiver's {setting.bandwidth_hz / 1e3:g} kHz are narrower than the {needed / 1e3:g} kHz of Carson's rule."
        )
        return
    off = setting.frequency_hz * setting.ppm_both_ends * 1e-6
    if needed + 2 * off > setting.bandwidth_hz:
        yield (
            f"With crystals {setting.ppm_both_ends:g} ppm apart the receiver needs {(needed + 2 * off) / 1e3:.0f} kHz."
        )
