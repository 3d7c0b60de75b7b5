"""Time on air of chirp spread spectrum frames, SF 5 to 12.

The formula is widely published by chip makers; recalled from memory, no standard's text at hand.

===========  =========================  ==========================
symbol       name here                  meaning
===========  =========================  ==========================
SF           spreading_factor           bits per symbol
BW           bandwidth_hz               bandwidth [Hz]
CR           coding_rate_denominator    5 to 8 for 4/5 to 4/8
DE           low_data_rate              two bits fewer per symbol
===========  =========================  ==========================
"""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.checks import positive, within

LOW_DATA_RATE_SYMBOL_TIME_S = 16e-3  # from memory: on when a symbol lasts at least 16 ms
SYNC_SYMBOLS = 4.25  # from memory: added to the programmed preamble
SHORT_SYNC_SYMBOLS = 6.25  # from memory: at SF5 and SF6, which later modems added
SHORT_SPREADING_FACTOR = 6  # up to here the first block has no header bits of its own
BANDWIDTHS_HZ = (7812.5, 10416.7, 15625.0, 20833.3, 31250.0, 41666.7, 62500.0, 125e3, 250e3, 500e3)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChirpSetting:
    """What decides the time on air; `low_data_rate` None means automatic by symbol time."""

    spreading_factor: int
    bandwidth_hz: float
    coding_rate_denominator: int = 5
    preamble_symbols: int = 8
    explicit_header: bool = True
    payload_crc: bool = True
    low_data_rate: bool | None = None

    def __post_init__(self) -> None:
        """Refuse what no such modem does."""
        within("spreading_factor", self.spreading_factor, 5, 12)
        within("coding_rate_denominator", self.coding_rate_denominator, 5, 8)
        within("preamble_symbols", self.preamble_symbols, 0, 65535)
        positive("bandwidth_hz", self.bandwidth_hz)

    @property
    def symbol_time_s(self) -> float:
        """Return the length of one symbol [s]."""
        return float(2**self.spreading_factor / self.bandwidth_hz)

    @property
    def low_data_rate_used(self) -> bool:
        """Tell whether low-data-rate optimisation is on."""
        if self.low_data_rate is not None:
            return self.low_data_rate
        return self.symbol_time_s >= LOW_DATA_RATE_SYMBOL_TIME_S

    @property
    def preamble_time_s(self) -> float:
        """Return the length of preamble and sync word [s]."""
        sync = SHORT_SYNC_SYMBOLS if self._short else SYNC_SYMBOLS
        return (self.preamble_symbols + sync) * self.symbol_time_s

    @property
    def _short(self) -> bool:
        return self.spreading_factor <= SHORT_SPREADING_FACTOR

    @property
    def bit_rate_bit_s(self) -> float:
        """Return the information rate inside the payload [bit/s]."""
        bits = self.spreading_factor - 2 * self.low_data_rate_used
        return bits * 4 / self.coding_rate_denominator / self.symbol_time_s

    def payload_symbols(self, payload_bytes: int) -> int:
        """Return the symbols after the preamble, 8 at least."""
        within("payload_bytes", payload_bytes, 0, 255)
        bits = (
            8 * payload_bytes
            - 4 * self.spreading_factor
            + (20 if self._short else 28)
            + 16 * self.payload_crc
            - 20 * (not self.explicit_header)
        )
        per_block = 4 * (self.spreading_factor - 2 * self.low_data_rate_used)
        blocks = -(-bits // per_block)  # ceiling, exact in integers
        return 8 + max(blocks * self.coding_rate_denominator, 0)

    def airtime_s(self, payload_bytes: int) -> float:
        """Return the time on air of one frame [s] with 0 to 255 payload bytes."""
        return self.preamble_time_s + self.payload_symbols(payload_bytes) * self.symbol_time_s
