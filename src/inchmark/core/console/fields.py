"""The fields a settings string can hold: what is legal, what is usual, and the usual codes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from inchmark.core.airtime.chirp import BANDWIDTHS_HZ


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """A named field: unit, legal and usual range in that unit, usual codes."""

    key: str
    name: str
    unit: str = ""
    legal: tuple[float, float]
    usual: tuple[float, float]
    whole: bool = True
    codes: Mapping[str, float] = field(default_factory=dict)
    base: float = 0.0  # read numbers in another base: 16 for sync words

    def is_legal(self, value: float) -> bool:
        """Tell whether any radio takes the value."""
        return self.legal[0] <= value <= self.legal[1] and not (self.whole and value % 1)

    def is_usual(self, value: float) -> bool:
        """Tell whether most radios are set within this."""
        return self.is_legal(value) and self.usual[0] <= value <= self.usual[1]


_BANDWIDTH_CODES = {str(code): hertz for code, hertz in enumerate(BANDWIDTHS_HZ)}
_FLAG = {"0": 0.0, "1": 1.0, "off": 0.0, "on": 1.0, "false": 0.0, "true": 1.0}


def _real(
    key: str, name: str, unit: str, *, legal: tuple[float, float], usual: tuple[float, float]
) -> Field:
    return Field(key=key, name=name, unit=unit, legal=legal, usual=usual, whole=False)


FIELDS = {
    one.key: one
    for one in (
        Field(key="sf", name="spreading factor", legal=(5, 12), usual=(7, 12)),
        Field(
            key="bw",
            name="bandwidth",
            unit="Hz",
            legal=(7_600, 2e6),
            usual=(62_000, 500e3),
            whole=False,
            codes=_BANDWIDTH_CODES,
        ),
        Field(
            key="cr",
            name="coding rate 4/x",
            legal=(5, 8),
            usual=(5, 8),
            codes={"1": 5.0, "2": 6.0, "3": 7.0, "4": 8.0},
        ),
        Field(key="preamble", name="preamble", legal=(2, 65535), usual=(6, 32)),
        _real("power", "transmit power", "dBm", legal=(-30, 33), usual=(0, 22)),
        _real("frequency", "frequency", "Hz", legal=(1e8, 6e9), usual=(430e6, 2.5e9)),
        Field(key="sync", name="sync word", legal=(0, 0xFFFFFFFF), usual=(1, 0xFFFF), base=16),
        Field(key="header", name="explicit header", legal=(0, 1), usual=(0, 1), codes=_FLAG),
        Field(key="crc", name="payload CRC", legal=(0, 1), usual=(0, 1), codes=_FLAG),
        Field(
            key="ldro", name="low-data-rate optimisation", legal=(0, 1), usual=(0, 1), codes=_FLAG
        ),
        Field(key="payload", name="payload", unit="bytes", legal=(0, 255), usual=(1, 255)),
        _real("bitrate", "bit rate", "bit/s", legal=(100, 4e6), usual=(1_000, 1e6)),
        _real("deviation", "deviation", "Hz", legal=(100, 2e6), usual=(600, 5e5)),
    )
}
SKIPPED = "_"  # a position whose meaning does not matter here
SCALES = {"": 1.0, "Hz": 1.0, "kHz": 1e3, "MHz": 1e6, "dBm": 1.0, "bit/s": 1.0, "kbit/s": 1e3}
