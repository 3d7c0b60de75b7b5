"""A rig with one part, setting or power exchanged: what its level gains, what it costs, whether it may."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from copy import copy
from dataclasses import dataclass

from inchmark.core.budget import EndName, reference_level_dbm
from inchmark.core.wording import number
from inchmark.shelf.adapters.ends import carried_end, fixed_end
from inchmark.shelf.adapters.parts import feed_figures, gain_of
from inchmark.shelf.adapters.rigs import airtime_s
from inchmark.shelf.adapters.settings import computed_sensitivity
from inchmark.shelf.figures.beside import Value
from inchmark.shelf.figures.candidates import battery_life
from inchmark.shelf.figures.limits import legal_checks
from inchmark.shelf.models import Antenna, Feed, Rig, Setting
from inchmark.shelf.services.rigs import take_over_setting

WORTH_DB = 0.5  # a change of less is not offered
LEAST_POWER_DBM = -30.0
OFF_BAND = 0.1  # an antenna cut for a frequency so far off is for another band


@dataclass(frozen=True, slots=True, kw_only=True)
class Variant:
    """A rig changed in one thing; `gain_db` is what its level over the threshold gains [dB]."""

    kind: str
    words: str
    rig: Rig
    gain_db: float
    airtime_s: float
    life: Value
    price: float | None
    allowed: bool
    why: str


def variants(
    rig: Rig,
    sender: EndName,
    antennas: Sequence[Antenna],
    settings: Sequence[Setting],
    region: str,
) -> list[Variant]:
    """Return every change of a rig worth its name, within the limits where that can be."""
    made = [*_powers(rig, sender, region), *_settings(rig, settings), *_antennas(rig, antennas)]
    found = [_variant(rig, *one, sender, region) for one in made]
    return [one for one in found if one.gain_db >= WORTH_DB]


def gain_db(rig: Rig, other: Rig, sender: EndName) -> float:
    """Return what another rig's level over its threshold has on this one's, over one path [dB].

    Thresholds are set against each other by noise figure and required S/N, so that what was measured
    of one is not set against what a datasheet says of the other.
    """
    return _strength_db(other, sender) - _strength_db(rig, sender)


def _strength_db(rig: Rig, sender: EndName) -> float:
    ends = carried_end(rig), fixed_end(rig)
    first, second = ends if sender is EndName.CARRIED else reversed(ends)
    threshold = computed_sensitivity(rig, rig.noise_figure_db).threshold_dbm
    return reference_level_dbm(first, second) - threshold


def _variant(
    rig: Rig, kind: str, words: str, changed: Rig, price: float | None, sender: EndName, region: str
) -> Variant:
    changed, less = within_limits(changed, sender, region)
    check = legal_checks(changed, region)[0 if sender is EndName.CARRIED else 1]
    return Variant(
        kind=kind,
        words=f"{words}{less}",
        rig=changed,
        gain_db=gain_db(rig, changed, sender),
        airtime_s=airtime_s(changed),
        life=battery_life(changed, None),
        price=price,
        allowed=check.fits,
        why="" if check.fits else _why(check.best),
    )


def _why(best: object) -> str:
    if best is None:
        return "no limit on the table covers the channel: look it up where you are"
    return "beyond the time on air allowed" if best.power_fits else "beyond the power allowed"  # type: ignore[attr-defined]


def within_limits(rig: Rig, sender: EndName, region: str) -> tuple[Rig, str]:
    """Return a rig with its sender's power taken back to the limit, and that in words."""
    check = legal_checks(rig, region)[0 if sender is EndName.CARRIED else 1]
    best = check.best
    if best is None or best.power_fits:
        return rig, ""
    power = power_of(rig, sender) + best.left_db
    if power < LEAST_POWER_DBM:
        return rig, ""
    lower = with_power(rig, sender, power)
    return lower, f", at {number(power, 1)} dBm to stay within {best.limit.band}"


def power_of(rig: Rig, sender: EndName) -> float:
    """Return the power of the end that sends [dBm]."""
    return float(rig.power_dbm if sender is EndName.CARRIED else rig.fixed_power_dbm)


def with_power(rig: Rig, sender: EndName, power_dbm: float) -> Rig:
    """Return a copy of a rig whose sending end has another power [dBm]."""
    other = copy(rig)
    setattr(other, "power_dbm" if sender is EndName.CARRIED else "fixed_power_dbm", power_dbm)
    return other


Made = tuple[str, str, Rig, float | None]


def _powers(rig: Rig, sender: EndName, region: str) -> Iterator[Made]:
    """Yield the rig at as much power as its module gives and the limits allow."""
    module = rig.module_part
    best = legal_checks(rig, region)[0 if sender is EndName.CARRIED else 1].best
    if module is None or best is None:
        return
    own = power_of(rig, sender)
    most = min(module.power_high_dbm, own + best.left_db)
    if most >= own + WORTH_DB:
        more = with_power(rig, sender, most)
        yield "power", f"power {number(most, 1)} dBm", more, 0.0


def _settings(rig: Rig, settings: Sequence[Setting]) -> Iterator[Made]:
    """Yield the rig with other settings of its module near its frequency."""
    for one in settings:
        near = abs(one.frequency_hz / rig.frequency_hz - 1) < 0.05
        if one.module_id == rig.module_part_id and one.pk != rig.setting_part_id and near:
            other = with_setting(rig, one)
            yield "setting", f"setting {one.name}", other, 0.0


def with_setting(rig: Rig, setting: Setting) -> Rig:
    """Return a copy of a rig with another setting; its period and the power of its fixed end stay."""
    other = copy(rig)
    other.setting_part = setting
    take_over_setting(other, setting)
    other.conducted_dbm = None  # measured in the other setting
    return other


def _antennas(rig: Rig, antennas: Sequence[Antenna]) -> Iterator[Made]:
    for one in antennas:
        cut = one.cut_for_hz or rig.frequency_hz
        if one.type == Antenna.MAGNETIC or abs(cut / rig.frequency_hz - 1) > OFF_BAND:
            continue
        if one.pk != rig.antenna_part_id:
            yield (
                "antenna",
                f"{one.name} at the node",
                with_antenna(rig, one, EndName.CARRIED),
                one.price,
            )
        if one.pk != rig.fixed_antenna_part_id:
            other = with_antenna(rig, one, EndName.FIXED)
            yield "fixed antenna", f"{one.name} at the fixed end", other, one.price


def with_antenna(rig: Rig, antenna: Antenna, end: EndName) -> Rig:
    """Return a copy of a rig with another antenna at an end; what a sweep said of the old one goes."""
    other = copy(rig)
    if end is EndName.CARRIED:
        other.antenna_part, other.antenna = antenna, antenna.name
        other.antenna_gain_dbi = gain_of(antenna, rig.frequency_hz)
        other.polarisation, other.vswr = antenna.polarisation, None
    else:
        other.fixed_antenna_part, other.fixed_antenna = antenna, antenna.name
        other.fixed_gain_dbi = gain_of(antenna, rig.frequency_hz)
        other.fixed_polarisation, other.fixed_vswr = antenna.polarisation, None
    return other


def with_fixed_feed(rig: Rig, feed: Feed) -> Rig:
    """Return a copy of a rig with another feed at its fixed end; what a sweep said of the old one goes."""
    other = copy(rig)
    other.fixed_feed_part = feed
    other.fixed_feed_loss_db = feed_figures(feed, rig.frequency_hz).loss_db
    other.fixed_vswr = None
    return other
