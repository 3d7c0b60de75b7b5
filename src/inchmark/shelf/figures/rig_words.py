"""A rig in sentences: what stands folded in its form, and what keeping it changed."""

from __future__ import annotations

from inchmark.core.limits import ERP
from inchmark.core.wording import distance, duration, level, listed, number
from inchmark.shelf.adapters.rigs import things_of
from inchmark.shelf.figures.limits import legal_checks
from inchmark.shelf.models import Rig

MOST_NAMED = 4


def carried_words(rig: Rig) -> str:
    """Return how the carried end stands, like “1.5 m high, no housing loss, carried freely”."""
    parts = [
        f"{distance(rig.height_m)} high",
        f"{_loss(rig.housing_loss_db)} housing loss",
        f"carried {_carried(rig)}",
        rig.feed_part.name if rig.feed_part else f"{_loss(rig.feed_loss_db)} feed loss",
    ]
    if rig.polarisation_angle_deg:
        parts.append(f"{rig.polarisation_angle_deg:g}° between the antennas")
    if rig.sweep:
        parts.append(f"match from {rig.sweep.name}")
    return ", ".join(parts)


def _carried(rig: Rig) -> str:
    if not rig.carry:
        return "freely"
    return f"{rig.get_carry_display()} ({number(rig.carry_loss_db)} dB)"


def _loss(db: float) -> str:
    return f"{number(db)} dB" if db else "no"


def fixed_words(rig: Rig) -> str:
    """Return how the fixed end stands."""
    antenna = rig.fixed_antenna_part.name if rig.fixed_antenna_part else rig.fixed_antenna
    gain = f" ({number(rig.fixed_gain_dbi, 2)} dBi)" if not rig.fixed_antenna_part else ""
    feed = rig.fixed_feed_part.name if rig.fixed_feed_part else _feed(rig.fixed_feed_loss_db)
    return f"{antenna or 'unnamed antenna'}{gain}, {distance(rig.fixed_height_m)} high, {level(rig.fixed_power_dbm)}, {feed}"


def _feed(db: float) -> str:
    return f"{_loss(db)} feed loss"


def use_words(rig: Rig) -> str:
    """Return name in logs, battery and pace."""
    named = f"called {rig.log_name} in logs" if rig.log_name else "called by its letter in logs"
    battery = rig.battery.name if rig.battery else "no battery chosen"
    near = {
        None: "RSSI near the noise found out from the log",
        True: "RSSI is signal plus noise",
        False: "RSSI is the signal alone",
    }
    return f"{named}, {battery}, one message every {duration(rig.period_s)}, {near[rig.rssi_includes_noise]}"


def typed_words(rig: Rig) -> str:
    """Return the radio figures that stand where no part brings them."""
    return f"{rig.frequency_hz / 1e6:.9g} MHz, {rig.setting}, {rig.payload_bytes} bytes, {level(rig.power_dbm)}, noise figure {number(rig.noise_figure_db)} dB, duty cycle {rig.duty_cycle_percent:g} %"


def radiated_words(rig: Rig, region: str) -> str:
    """Return what the carried end radiates, the way the rules of the place count it."""
    check = legal_checks(rig, region)[0]
    kind = check.best.limit.kind if check.best else ERP
    power = check.emission.erp_dbm if kind == ERP else check.emission.eirp_dbm
    return f"{level(power)} {kind}"


def kept_words(rig: Rig, before: Rig | None, region: str, *, walked: bool) -> str:
    """Return in a sentence or two what keeping a rig changed."""
    now = radiated_words(rig, region)
    if before is None:
        return f"{rig.letter} is on the shelf; it radiates {now}."
    was, values = dict(things_of(before)), dict(things_of(rig))
    changed = [f"{name} {values[name]}" for name in values if values[name] != was[name]]
    if not changed:
        return f"{rig.letter} is kept; nothing a comparison rests on has changed."
    more = "" if len(changed) <= MOST_NAMED else f" and {len(changed) - MOST_NAMED} more"
    then = radiated_words(before, region)
    radiates = f" It now radiates {now} ({then} before)." if then != now else ""
    again = " Its frames are read anew." if walked else ""
    return f"{rig.letter} changed: {listed(changed[:MOST_NAMED])}{more}.{radiates}{again}"
