"""Figures in words, the same in a table as in a sentence."""

from __future__ import annotations

from typing import Any

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

from inchmark.core import wording
from inchmark.core.interval import Estimate
from inchmark.pages import personal, rig_signs

register = template.Library()

NOTHING = "–"


def _missing(value: Any) -> bool:
    """Tell whether there is no figure; a template gives "" for a figure of an estimate that is none."""
    return value is None or value == ""


def _figure(text: str) -> SafeString:
    """Return figures and units, made here, as they are: they hold nothing to escape."""
    return SafeString(text)


@register.filter
def metres(value: float | None) -> str:
    """Return a distance, or a dash."""
    return _figure(wording.distance(value) if value else NOTHING)


@register.filter
def db(value: float | None) -> str:
    """Return a signed level difference without its unit, or a dash."""
    return _figure(NOTHING if _missing(value) else wording.number(value, 1, sign=True))


@register.filter
def plain(value: float | None, digits: int = 1) -> str:
    """Return a number with a true minus, or a dash."""
    return _figure(NOTHING if _missing(value) else wording.number(value, digits))


@register.filter
def box(value: float) -> str:
    """Return a number as it could be typed into a box."""
    return f"{value:.2f}".rstrip("0").rstrip(".")


@register.filter
def three(value: float | None) -> str:
    """Return a number with three figures, or a dash."""
    return _figure(NOTHING if _missing(value) else f"{value:.3g}".replace("-", wording.MINUS))


@register.filter
def percent(value: float | None) -> str:
    """Return a share as per cent, or a dash."""
    return _figure(NOTHING if _missing(value) else wording.percent(value))


@register.filter
def per_cent_range(found: Estimate | None) -> str:
    """Return the limits of a share, like "4–23 %"."""
    return NOTHING if found is None else f"{100 * found.low:.0f}–{100 * found.high:.0f} %"


@register.filter
def metres_range(found: Estimate | None) -> str:
    """Return the limits of a distance."""
    if found is None:
        return NOTHING
    return f"{wording.distance(found.low)} … {wording.distance(found.high)}"


@register.filter
def db_range(found: Estimate | None) -> str:
    """Return the limits of a level difference."""
    if found is None:
        return NOTHING
    return f"{wording.number(found.low, sign=True)} … {wording.number(found.high, sign=True)}"


@register.filter
def levels(found: Estimate | None) -> str:
    """Return the limits of a level."""
    return (
        NOTHING if found is None else f"{wording.number(found.low)} … {wording.number(found.high)}"
    )


@register.filter
def link_words(of: Any) -> str:
    """Return direction and receiver of a row in words."""
    return wording.link_words(of.direction, of.receiver)


@register.filter
def direction_words(direction: str) -> str:
    """Return a direction in words."""
    return wording.direction_words(direction)


@register.filter
def field(of: Any, name: str) -> Any:
    """Return a field of a record by its name."""
    return getattr(of, name, "")


def _scaled(value: float | None, unit: float, digits: int) -> str:
    if value is None or _missing(value):
        return NOTHING
    return f"{value / unit:.{digits}g}".replace("-", wording.MINUS)


@register.filter
def megahertz(value: float | None) -> str:
    """Return a frequency [Hz] in MHz, or a dash."""
    return _scaled(value, 1e6, 5)


@register.filter
def megahertz_rough(value: float | None) -> str:
    """Return a width [Hz] in MHz as far as a sweep's steps tell it, or a dash."""
    return _scaled(value, 1e6, 3)


@register.filter
def megahertz_exact(value: float) -> str:
    """Return a frequency [Hz] in MHz with every digit a radio is set to."""
    return f"{value / 1e6:.9g}"


@register.filter
def kilohertz(value: float | None) -> str:
    """Return a frequency [Hz] in kHz, or a dash."""
    return _scaled(value, 1e3, 4)


@register.filter
def milliseconds(value: float | None) -> str:
    """Return a time [s] in ms with three figures or more, or a dash."""
    if value is None:
        return NOTHING
    return wording.number(value * 1e3, 0 if value >= 0.1 else 1 if value >= 0.01 else 2)


@register.filter
def milli(value: float | None) -> str:
    """Return a thousandth's worth with three figures, or a dash."""
    if value is None:
        return NOTHING
    return f"{value * 1e3:.3g}".replace("-", wording.MINUS)


@register.filter
def microamps(value: float | None) -> str:
    """Return a current [A] in microamperes with three figures, or a dash."""
    return NOTHING if _missing(value) else f"{value * 1e6:.3g}"


@register.filter
def microamphours(value: float | None) -> str:
    """Return a charge [C] in microampere-hours with three figures, or a dash."""
    return (
        NOTHING
        if value is None
        else f"{float(f'{value / 3.6e-3:.3g}'):,.12g}".replace(",", "\N{NARROW NO-BREAK SPACE}")
    )


@register.filter
def hours(value: float) -> str:
    """Return a time [s] as hours and minutes, like 3 h 05 min."""
    minutes = round(value / 60)
    if minutes < 60:
        return f"{minutes} min"
    return f"{minutes // 60} h {minutes % 60:02d} min"


@register.filter
def lasting(value: float) -> str:
    """Return a stretch of time [s] as somebody who waits says it: 40 s, 12 min, 1 h 05 min."""
    return f"{round(value)} s" if value < 90 else hours(value)


@register.filter
def of_hundred(share: float) -> str:
    """Return a share as so many of 100, like 99.9."""
    return f"{100 * share:g}"


@register.filter
def percent_signed(value: float) -> str:
    """Return a share as whole per cent with its sign, like \N{MINUS SIGN}40 %."""
    return f"{wording.number(100 * value, 0)} %"


@register.filter
def at(values: Any, key: Any) -> Any:
    """Return the item of a list by place, or of a mapping by key; None where there is none."""
    try:
        return values[key]
    except (KeyError, IndexError):
        return None


@register.filter
def grouped(value: int | None) -> str:
    """Return a count with narrow spaces between thousands."""
    return NOTHING if _missing(value) else f"{value:,}".replace(",", "\N{NARROW NO-BREAK SPACE}")


register.filter("day", personal.day)
register.filter("moment", personal.moment)
register.filter("seconds", wording.duration)
register.filter("shape", rig_signs.shape)
register.filter("hue", rig_signs.hue)
register.filter("dot", rig_signs.dot)


@register.simple_tag
def rig_mark(letter: str) -> SafeString:
    """Return a rig's sign: its letter inside its shape in its colour."""
    sign = rig_signs.shape(letter)
    return format_html(
        '<svg class="rig-mark {}" viewBox="-1 -1 22 22" role="img" aria-label="rig {}"><path d="{}"/><text x="10" y="{}" text-anchor="middle">{}</text></svg>',
        rig_signs.hue(letter),
        letter,
        rig_signs.OUTLINES[sign],
        17 if sign == "triangle" else 14,
        letter,
    )
