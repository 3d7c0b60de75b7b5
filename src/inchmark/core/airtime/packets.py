"""Time on air of frames sent bit by bit: GFSK, IEEE 802.15.4 and Low Energy."""

from __future__ import annotations

from inchmark.core.checks import positive, within

# IEEE 802.15.4: preamble 4 + SFD 1 octets, PHR 1 octet, one bit per bit time.
_IEEE802154_BIT_RATE = {
    "ieee802154_oqpsk_2450": 250e3,
    "ieee802154_bpsk_868": 20e3,
    "ieee802154_bpsk_915": 40e3,
}
_IEEE802154_OVERHEAD_OCTETS = 6
# Low Energy, Core Specification Vol 6 Part B 2.1: access address 4, header 2, CRC 3 octets.
_LE_BIT_RATE = {"le_1m": 1e6, "le_2m": 2e6}
_LE_PREAMBLE_OCTETS = {"le_1m": 1, "le_2m": 2}
_LE_FIXED_OCTETS = 4 + 2 + 3
# Coded (2.2): preamble 80 us, access address 256, CI 16, TERM1 24 at S=8; then S us per bit,
# TERM2 3 bits.
_LE_CODED_FIXED_US = 80 + 256 + 16 + 24
_LE_CODED_SPREAD = {"le_coded_s2": 2, "le_coded_s8": 8}


def gfsk_airtime_s(
    *,
    bit_rate_bit_s: float,
    payload_bytes: int,
    preamble_bytes: int = 5,
    sync_bytes: int = 4,
    length_bytes: int = 1,
    address_bytes: int = 0,
    crc_bytes: int = 2,
) -> float:
    """Return the time on air [s] of a two-level FSK or GFSK frame, one bit per symbol.

    No coding.
    """
    positive("bit_rate_bit_s", bit_rate_bit_s)
    parts = (preamble_bytes, sync_bytes, length_bytes, address_bytes, payload_bytes, crc_bytes)
    within("frame parts", parts, 0, 65535)
    return float(8 * sum(parts) / bit_rate_bit_s)


def ieee802154_airtime_s(*, psdu_bytes: int, phy: str = "ieee802154_oqpsk_2450") -> float:
    """Return the time on air [s]; the PSDU of 0 to 127 octets holds MAC header and FCS."""
    if phy not in _IEEE802154_BIT_RATE:
        raise ValueError(f"phy={phy!r} must be one of {', '.join(_IEEE802154_BIT_RATE)}")
    within("psdu_bytes", psdu_bytes, 0, 127)
    return (_IEEE802154_OVERHEAD_OCTETS + psdu_bytes) * 8 / _IEEE802154_BIT_RATE[phy]


def low_energy_airtime_s(*, phy: str, payload_bytes: int, mic_bytes: int = 0) -> float:
    """Return the time on air [s]; payload 0 to 255 octets without header, MIC and CRC."""
    within("payload_bytes", payload_bytes, 0, 255)
    within("mic_bytes", mic_bytes, 0, 4)
    if phy in _LE_BIT_RATE:
        octets = _LE_PREAMBLE_OCTETS[phy] + _LE_FIXED_OCTETS + payload_bytes + mic_bytes
        return 8 * octets / _LE_BIT_RATE[phy]
    if phy in _LE_CODED_SPREAD:
        bits = 8 * (2 + payload_bytes + mic_bytes + 3) + 3
        return (_LE_CODED_FIXED_US + bits * _LE_CODED_SPREAD[phy]) * 1e-6
    raise ValueError(f"phy={phy!r} must be one of {', '.join((*_LE_BIT_RATE, *_LE_CODED_SPREAD))}")
