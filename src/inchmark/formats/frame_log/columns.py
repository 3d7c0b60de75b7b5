"""The columns of a frame log: names, bounds, and the sentence for a value outside them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime

TEXT = ("rig", "stop", "condition", "direction", "receiver", "source")
REQUIRED = ("rig", "stop", "seq")
MAX_TEXT = 60
ALIASES = {"received": "heard"}
HEARD_WORDS = {
    "": True,
    "1": True,
    "0": False,
    "true": True,
    "false": False,
    "yes": True,
    "no": False,
    "heard": True,
    "missed": False,
}


@dataclass(frozen=True, slots=True)
class NumberColumn:
    """A numeric column with its unit and what is physically possible."""

    low: float
    high: float
    unit: str = ""
    whole: bool = False

    def check(self, name: str, token: str) -> float:
        """Return the number; raise ValueError with a sentence."""
        try:
            value = float(token)
        except ValueError:
            raise ValueError(_not_a_number(name, token)) from None
        if value != value:
            raise ValueError(
                f"{name} is “{token}”. Leave the field empty where nothing was measured."
            )
        if not self.low <= value <= self.high:
            unit = f" {self.unit}" if self.unit else ""
            raise ValueError(
                f"{name} is {token}; it must be from {self.low:g} to {self.high:g}{unit}."
            )
        if self.whole and value != int(value):
            raise ValueError(f"{name} is {token}; it must be a whole number.")
        return value


def _not_a_number(name: str, token: str) -> str:
    if "," in token and token.replace(",", ".", 1).lstrip("+-").replace(".", "", 1).isdigit():
        return f"{name} is “{token}”, with a decimal comma. Write {token.replace(',', '.')}."
    if "\N{MINUS SIGN}" in token:
        return f"{name} is “{token}”, with a typeset minus. Write a plain hyphen-minus."
    return f"{name} is “{token[:40]}”, which is not a number."


NUMBERS = {
    "seq": NumberColumn(0, 2**32 - 1, whole=True),
    "rssi_dbm": NumberColumn(-200, 60, "dBm"),
    "snr_db": NumberColumn(-80, 160, "dB"),
    "noise_dbm": NumberColumn(-200, 60, "dBm"),
    "hops": NumberColumn(0, 255, whole=True),
    "pass": NumberColumn(0, 32_000, whole=True),
    "lat": NumberColumn(-90, 90, "degrees"),
    "lon": NumberColumn(-180, 180, "degrees"),
}
COLUMNS = (
    "rig",
    "stop",
    "seq",
    "heard",
    "time",
    "rssi_dbm",
    "snr_db",
    "noise_dbm",
    "condition",
    "direction",
    "receiver",
    "source",
    "hops",
    "lat",
    "lon",
    "pass",  # which time the rig stood there, where a log says so
)


def read_time(token: str) -> float:
    """Return seconds since 1970 of an ISO 8601 time; one without a zone is UTC."""
    try:
        moment = datetime.fromisoformat(token)
    except ValueError:
        raise ValueError(
            f"time is “{token[:40]}”; write it as ISO 8601, like 2026-11-14T09:30:00Z."
        ) from None
    if moment.tzinfo is None:
        moment = moment.replace(tzinfo=UTC)
    if not 1970 <= moment.year <= 2200:
        raise ValueError(
            f"time is “{token[:40]}”, which is not in this age. Check the logger's clock."
        )
    return moment.timestamp()
