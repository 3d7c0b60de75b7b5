"""Typed quantities with their unit: "1.3 km", "300 ft", "25 mW", "868.3 MHz"."""

from __future__ import annotations

import math
import re
from functools import cache
from typing import Any

_LEVEL = re.compile(r"^([+-]?\d+(?:\.\d+)?)\s*dbm?$", re.IGNORECASE)
_BARE = re.compile(r"^[+-]?\d+(?:\.\d+)?$")
_COMMA = re.compile(r"^[+-]?\d+,\d+")
_SPOKEN = {"m": "metres", "Hz": "hertz", "dBm": "dBm", "s": "seconds"}


@cache
def _registry() -> Any:
    import pint  # half a second; only typed quantities need it

    return pint.UnitRegistry()


def read_quantity(text: str, unit: str, *, bare_unit: str | None = None) -> float:
    """Return a typed quantity in `unit`; a bare number is in `bare_unit` (default: `unit`).

    Raises
    ------
    ValueError
        The text is no number with a unit of that kind; the message is a sentence for the user.
    """
    typed = text.strip().replace("\N{MINUS SIGN}", "-")
    if _COMMA.match(typed):
        raise ValueError(f"“{text}” has a decimal comma. Write {typed.replace(',', '.', 1)}.")
    if _BARE.match(typed):
        typed = f"{typed} {bare_unit or unit}"
    try:
        value = _registry().Quantity(typed).to(unit).magnitude
    except Exception:  # pint raises a dozen kinds for bad text; the user needs one sentence
        raise ValueError(
            f"“{text}” is not a quantity in {_SPOKEN.get(unit, unit)}. Write a number with its "
            f"unit, like “{_example(unit)}”."
        ) from None
    if not math.isfinite(float(value)):
        raise ValueError(f"“{text}” is not a finite number.")
    return float(value)


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


def _example(unit: str) -> str:
    return {"m": "1.3 km", "Hz": "868.1 MHz", "mW": "25 mW", "s": "2 s"}.get(unit, f"1 {unit}")
