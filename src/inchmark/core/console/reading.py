"""A settings string read into named fields, what is unusual in it, and two ends held side by side."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import NamedTuple

from inchmark.core.airtime.chirp import BANDWIDTHS_HZ, LOW_DATA_RATE_SYMBOL_TIME_S
from inchmark.core.airtime.setting import carson_bandwidth_hz
from inchmark.core.console.fields import FIELDS, Field
from inchmark.core.console.template import Position, Template, TemplateError

_MUST_MATCH = ("frequency", "sf", "bw", "sync", "header", "bitrate", "ldro")
_IMPLICIT_MUST_MATCH = ("cr", "crc", "payload")  # the header would have told
_FREE = {
    "power": "each end may have its own",
    "cr": "the header tells the receiver",
    "crc": "the header tells the receiver",
    "payload": "the header tells the receiver",
    "preamble": "the receiver's may not be shorter than what is sent",
    "deviation": "a difference costs sensitivity",
}
DEFAULT_BANDWIDTH_HZ = 125e3


class Named(NamedTuple):
    """One value under its name, as written and in the field's unit."""

    field: Field
    text: str
    value: float

    @property
    def shown(self) -> str:
        """Return the value with a unit a person would use."""
        unit = self.field.unit
        if self.field.key in ("header", "crc", "ldro"):
            return "on" if self.value else "off"
        if self.field.base:
            return f"0x{int(self.value):02X}"
        if unit == "Hz":
            return (
                f"{self.value / 1e6:.7g} MHz"
                if self.value >= 1e6
                else f"{self.value / 1e3:.4g} kHz"
            )
        return f"{self.value:g} {unit}".strip()


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingsReading:
    """The named fields of a string in its order, and what is unusual, in sentences."""

    named: tuple[Named, ...]
    unusual: tuple[str, ...]

    @property
    def values(self) -> dict[str, float]:
        """Return the values by field."""
        return {one.field.key: one.value for one in self.named}


def read_string(template: Template, text: str) -> SettingsReading:
    """Return what a string sets.

    Raises
    ------
    TemplateError
        The string has another number of values, or one that is none.
    """
    raw = template.values(text)
    named, wrong = [], []
    for position, written in zip(template.positions, raw, strict=True):
        if position.field is None:
            continue
        try:
            value = position.read(written)
        except TemplateError as error:
            wrong.append(str(error) + _swap_words(template, raw, position))
            continue
        named.append(Named(field=position.field, text=written, value=value))
    if wrong:
        raise TemplateError(" ".join(wrong))
    values = {one.field.key: one.value for one in named}
    return SettingsReading(
        named=tuple(named),
        unusual=(*_unusual_values(template, raw, named), *_unusual_whole(values)),
    )


def _unusual_values(template: Template, raw: list[str], named: list[Named]) -> Iterator[str]:
    """Yield what lies outside a field's range, and where it would fit better."""
    for position, one in zip([p for p in template.positions if p.field], named, strict=True):
        if one.field.is_usual(one.value):
            continue
        legal = one.field.is_legal(one.value)
        words = f"{one.field.name.capitalize()} {one.shown} is {'unusual' if legal else 'out of range'}."
        swapped = _swap_words(template, raw, position)
        if not legal and not swapped:
            swapped = f" Perhaps there is no {one.field.name} in this string, and the template takes another value for it."
        yield words + swapped


def _swap_words(template: Template, raw: list[str], position: Position) -> str:
    """Return which other position would take this value and give a better one back."""
    here = template.positions.index(position)
    for there, other in enumerate(template.positions):
        if there == here or other.field is None or position.field is None:
            continue
        if _usual(other, raw[here]) and _usual(position, raw[there]):
            return f" Value {here + 1} fits the {other.field.name} and value {there + 1} fits the {position.field.name} better: are they swapped?"
    return ""


def _usual(position: Position, text: str) -> bool:
    try:
        value = position.read(text)
    except TemplateError:
        return False
    return position.field is not None and position.field.is_usual(value)


def _unusual_whole(values: Mapping[str, float]) -> Iterator[str]:
    """Yield what is unusual in the values together."""
    if "power" not in values:
        yield (
            "The string sets no transmit power, so it stays at what the module last had. Set it and read it back."
        )
    if "sf" in values:
        yield from _unusual_symbol(values)
    if {"bitrate", "bw"} <= values.keys():
        yield from _unusual_rate(values)


def _unusual_symbol(values: Mapping[str, float]) -> Iterator[str]:
    symbol_s = 2 ** values["sf"] / values.get("bw", DEFAULT_BANDWIDTH_HZ)
    if symbol_s >= LOW_DATA_RATE_SYMBOL_TIME_S and values.get("ldro") != 1:
        said = "is off" if "ldro" in values else "is not in the string"
        yield (
            f"A symbol lasts {symbol_s * 1e3:.3g} ms: low-data-rate optimisation is needed and {said}. Make sure both ends switch it on."
        )


def _unusual_rate(values: Mapping[str, float]) -> Iterator[str]:
    rate = values["bitrate"]
    needed = carson_bandwidth_hz(rate, values.get("deviation", rate / 4))
    if needed > values["bw"] * 1.001:
        yield (
            f"{rate / 1e3:g} kbit/s take {needed / 1e3:.4g} kHz by Carson's rule; the bandwidth is {values['bw'] / 1e3:.4g} kHz, so this data rate does not go with it."
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingDifference:
    """One field at two ends: how each has it, and whether the link fails for it."""

    name: str
    ours: str
    theirs: str
    fatal: bool
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ModuleLimits:
    """What a module can be set to: power [dBm], bands [Hz] (none known: empty)."""

    power_dbm: tuple[float, float]
    bands_hz: tuple[tuple[float, float], ...] = ()


def beyond(reading: SettingsReading, limits: ModuleLimits) -> list[str]:
    """Return what a string sets beyond its module, or to a bandwidth that no chirp radio has."""
    values, found = reading.values, []
    low, high = limits.power_dbm
    power = values.get("power")
    if power is not None and not low <= power <= high:
        found.append(f"{power:g} dBm is outside the module's {low:g} to {high:g} dBm.")
    frequency, bands = values.get("frequency"), limits.bands_hz
    if frequency is not None and bands and not any(a <= frequency <= b for a, b in bands):
        found.append(f"{frequency / 1e6:g} MHz is in none of the module's bands.")
    width = values.get("bw")
    if (
        "sf" in values
        and width is not None
        and not any(abs(width - one) <= 0.01 * one for one in BANDWIDTHS_HZ)
    ):
        known = ", ".join(f"{one / 1e3:.4g}" for one in BANDWIDTHS_HZ)
        found.append(
            f"{width / 1e3:.4g} kHz is no bandwidth of chirp spread spectrum: {known} kHz."
        )
    return found


def differences(ours: SettingsReading, theirs: SettingsReading) -> list[SettingDifference]:
    """Return the fields in which two ends differ, those that break the link first."""
    implicit = ours.values.get("header") == 0 or theirs.values.get("header") == 0
    must = _MUST_MATCH + (_IMPLICIT_MUST_MATCH if implicit else ())
    mine = {one.field.key: one for one in ours.named}
    other = {one.field.key: one for one in theirs.named}
    found = []
    for key in FIELDS:
        a, b = mine.get(key), other.get(key)
        if (a is None and b is None) or (a and b and a.value == b.value):
            continue
        fatal = key in must and a is not None and b is not None
        words = "must be the same at both ends" if key in must else _FREE.get(key, "")
        if a is None or b is None:
            words = "one end only; read it back from the other"
        found.append(
            SettingDifference(
                name=FIELDS[key].name,
                ours=a.shown if a else "–",
                theirs=b.shown if b else "–",
                fatal=fatal,
                words=words,
            )
        )
    return sorted(found, key=lambda one: not one.fatal)
