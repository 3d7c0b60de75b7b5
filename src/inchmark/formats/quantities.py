"""Typed quantities with their unit: "1.3 km", "300 ft", "25 mW", "868.3 MHz"."""

from __future__ import annotations

import math
import re
from functools import cache, lru_cache
from typing import Any

from inchmark.core.decibels import dbi_from_dbd

_LEVEL = re.compile(r"^([+-]?\d+(?:\.\d+)?)\s*dbm?$", re.IGNORECASE)
_GAIN = re.compile(r"^([+-]?\d+(?:\.\d+)?)\s*(dbi|dbd)$", re.IGNORECASE)
_RATE = re.compile(r"^(\d+(?:\.\d+)?)\s*([km]?)(bit/s|bits/s|bps|b/s)?$", re.IGNORECASE)
_QUANTITY = re.compile(r"^([+-]?\d+(?:\.\d*)?(?:[eE][+-]?\d{1,3})?)\s*([A-Za-zµμ]{1,20})?$")
LONGEST = 60  # characters of what is read, and of what a sentence quotes
_BARE = re.compile(r"^[+-]?\d+(?:\.\d+)?$")
_COMMA = re.compile(r"^[+-]?\d+,\d+")
_SPOKEN = {
    "m": "metres",
    "Hz": "hertz",
    "dBm": "dBm",
    "s": "seconds",
    "A": "amperes",
    "Ah": "ampere-hours",
    "V": "volts",
}


@cache
def _registry() -> Any:
    import pint  # half a second; only typed quantities need it

    return pint.UnitRegistry()


def read_quantity(text: str, unit: str, *, bare_unit: str | None = None) -> float:
    """Return a typed quantity in `unit`; a bare number is in `bare_unit` (default: `unit`).

    A number and the name of a unit, nothing else: the unit library would work out arithmetic
    like 9**9**9, so it is shown names of letters only.

    Raises
    ------
    ValueError
        The text is no number with a unit of that kind; the message is a sentence for the user.
    """
    typed = text.strip().replace("\N{MINUS SIGN}", "-")
    if _COMMA.match(typed):
        raise ValueError(f"“{text}” has a decimal comma. Write {typed.replace(',', '.', 1)}.")
    found = _QUANTITY.match(typed) if len(typed) <= LONGEST else None
    scale = _scale(found.group(2) or bare_unit or unit, unit) if found else None
    if found is None or scale is None:
        raise ValueError(
            f"“{shortened(text)}” is not a quantity in {_SPOKEN.get(unit, unit)}. Write a number with its unit, like “{_example(unit)}”."
        )
    value = float(found.group(1)) * scale
    if not math.isfinite(value):
        raise ValueError(f"“{text}” is not a finite number.")
    return value


def shortened(text: str) -> str:
    """Return text as a sentence can quote it."""
    return text if len(text) <= LONGEST else f"{text[:LONGEST]}…"


@lru_cache(maxsize=512)
def _scale(name: str, unit: str) -> float | None:
    """Return how many of `unit` one of the named unit is; None where it is none of that kind."""
    try:
        return float(_registry().Quantity(1.0, name).to(unit).magnitude)
    except Exception:  # the unit library raises a dozen kinds for names it does not know
        return None


def read_power_dbm(text: str) -> float:
    """Return a power [dBm] typed as dBm or in watts of any size ("25 mW" is 13.98 dBm)."""
    typed = text.strip().replace("\N{MINUS SIGN}", "-")
    level = _LEVEL.match(typed)
    if level or _BARE.match(typed):
        return float(level.group(1) if level else typed)
    milliwatts = read_quantity(text, "mW")
    if milliwatts <= 0:
        raise ValueError(f"“{text}” is no power. Write one above 0, like “25 mW” or “14 dBm”.")
    return 10 * math.log10(milliwatts)


def read_gain_dbi(text: str) -> float:
    """Return a gain [dBi] typed as dBi or dBd ("0 dBd" is 2.15 dBi)."""
    found = _GAIN.match(text.strip().replace("\N{MINUS SIGN}", "-"))
    if found is None:
        raise ValueError(
            f"“{text}” is no gain with its unit. Write “2.15 dBi” or “0 dBd”; they differ by 2.15 dB."
        )
    gain = float(found.group(1))
    return gain if found.group(2).lower() == "dbi" else float(dbi_from_dbd(gain))


def read_bit_rate(text: str) -> float:
    """Return a bit rate [bit/s]; "50", "50 kbit/s" and "50000 bit/s" are the same."""
    found = _RATE.match(text.strip())
    if found is None:
        raise ValueError(f"“{text}” is no bit rate. Write one like “50 kbit/s”.")
    scale = {"": 1e3, "k": 1e3, "m": 1e6}[found.group(2).lower()]
    bare_bits = found.group(3) and not found.group(2)
    return float(found.group(1)) * (1.0 if bare_bits else scale)


def _example(unit: str) -> str:
    return {
        "m": "1.3 km",
        "Hz": "868.1 MHz",
        "mW": "25 mW",
        "s": "2 s",
        "A": "2.1 uA",
        "Ah": "19 Ah",
        "V": "3.3 V",
    }.get(unit, f"1 {unit}")
