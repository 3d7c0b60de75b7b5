"""Where each model holds; outside it a figure carries a warning, never a silent answer."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from inchmark.core.propagation.inductive import near_field_end_m
from inchmark.core.wording import distance


class Range(NamedTuple):
    """A quantity's valid range in its base unit, and the document that says so."""

    low: float
    high: float
    document: str


_INF = float("inf")
VALID: dict[str, dict[str, Range]] = {
    "free_space": {},
    "walked": {},
    "kept": {},
    "log_distance": {"distance_m": Range(1, _INF, "common practice")},
    "two_ray": {"distance_m": Range(1, _INF, "textbook, flat ground")},
    "delta_bullington": {"frequency_hz": Range(30e6, 50e9, "ITU-R P.526-15")},
    "statistical_clutter": {
        "frequency_hz": Range(0.5e9, 67e9, "ITU-R P.2108-1, clause 3.2"),
        "distance_m": Range(250, _INF, "ITU-R P.2108-1, clause 3.2"),
    },
    "height_gain": {"frequency_hz": Range(30e6, 3e9, "ITU-R P.2108-1, clause 3.1")},
    "building_entry": {"frequency_hz": Range(80e6, 100e9, "ITU-R P.2109-1")},
    "indoor": {
        "frequency_hz": Range(0.9e9, 100e9, "ITU-R P.1238"),
        "distance_m": Range(1, _INF, "ITU-R P.1238"),
    },
    "multi_wall": {"distance_m": Range(1, _INF, "COST Action 231, clause 4.7.2")},
    "woodland": {"frequency_hz": Range(30e6, 60e9, "ITU-R P.833")},
}
_NAMES = {"frequency_hz": "frequency", "distance_m": "distance"}


def outside(model: str, *, frequency_hz: float, distance_m: float) -> list[str]:
    """Return in sentences what lies outside a model's range; nothing if all is within.

    Raises
    ------
    ValueError
        The model is unknown.
    """
    if model == "inductive":
        return list(_outside_near_field(frequency_hz, distance_m))
    if model not in VALID:
        raise ValueError(f"model={model!r} must be one of {', '.join(VALID)}, inductive")
    values = {"frequency_hz": frequency_hz, "distance_m": distance_m}
    return [
        f"{_show(name, values[name])} is outside what the {model.replace('_', ' ')} model holds for ({_show(name, one.low)} and {'up' if one.high == _INF else _show(name, one.high)}; {one.document})."
        for name, one in VALID[model].items()
        if not one.low <= values[name] <= one.high
    ]


def _outside_near_field(frequency_hz: float, distance_m: float) -> Iterator[str]:
    end = near_field_end_m(frequency_hz)
    if distance_m > end:
        yield (
            f"{distance(distance_m)} is beyond the near field, which ends at {distance(end)}: the inductive law no longer holds."
        )


def _show(name: str, value: float) -> str:
    return f"{value / 1e6:g} MHz" if name == "frequency_hz" else distance(value)
