"""Decibels: powers in every unit, and what a decibel brings in range."""

from __future__ import annotations

import math

from inchmark.core.airtime.setting import RadioSetting
from inchmark.core.constants import DIPOLE_GAIN_DBI
from inchmark.core.decibels import ratio_from_db
from inchmark.core.propagation.log_distance import range_factor
from inchmark.core.wording import decibels, level, number
from inchmark.workbench.figures.answers import DEFINITION, PRACTICE, Answers, Line

STRIP_DB = (1, 3, 6, 10, 12, 18)
DIPOLE_SOURCE = "gain of a half-wave dipole, 2.15 dBi"


def power_answers(*, power_dbm: float, gain_dbi: float, lead_db: float) -> Answers:
    """Return a power in other units, and what an antenna makes of it.

    Parameters
    ----------
    power_dbm, gain_dbi, lead_db
        Power at the transmitter [dBm], gain of the antenna [dBi], loss of the lead [dB].
    """
    eirp = power_dbm - lead_db + gain_dbi
    return Answers(
        lines=[
            Line(what="power", value=f"{level(power_dbm)} = {watts(power_dbm)}", formula="P [mW] = 10^(P [dBm] / 10)", source=DEFINITION),
            Line(what="gain", value=f"{number(gain_dbi, 2)} dBi = {number(gain_dbi - DIPOLE_GAIN_DBI, 2)} dBd", formula="dBd = dBi − 2.15", source=DIPOLE_SOURCE),
            Line(what="e.i.r.p.", value=f"{level(eirp)} = {watts(eirp)}", formula="power − lead + gain [dBi]", source=DEFINITION),
            Line(what="e.r.p.", value=f"{level(eirp - DIPOLE_GAIN_DBI)} = {watts(eirp - DIPOLE_GAIN_DBI)}", formula="e.i.r.p. − 2.15 dB", source=DIPOLE_SOURCE),
        ],
        says=["Never transmit without an antenna or a load. What is allowed is looked up for the place; licensed people decide."],
    )  # fmt: skip


def watts(level_dbm: float) -> str:
    """Return a level [dBm] in the watts a person would write."""
    milliwatts = float(ratio_from_db(level_dbm))
    for size, name in ((1e6, "kW"), (1e3, "W"), (1.0, "mW"), (1e-3, "µW"), (1e-6, "nW"), (1e-9, "pW")):  # fmt: skip
        if milliwatts >= 0.9995 * size:
            return f"{milliwatts / size:.3g} {name}"
    return f"{milliwatts:.2e} mW"


FREE, INSIDE = 2.0, 4.5  # exponents beside the chosen one; inside through walls, common practice


def brings_answers(
    *,
    exponent: float,
    wanted_factor: float | None,
    power_dbm: float | None = None,
    spreading_factor: int | None = None,
) -> Answers:
    """Return what decibels bring in range at a path-loss exponent, and what a factor on range takes.

    With a power [dBm] and a spreading factor to begin from, also the power, the antennas and the
    data rate that give it.
    """
    lines = [_strip_line(added, exponent) for added in STRIP_DB]
    says = []
    if exponent != FREE:
        says.append("“6 dB doubles the range” holds in free space alone, where n is 2.")
    if wanted_factor is not None:
        needed = 10 * exponent * math.log10(wanted_factor)
        lines.append(
            Line(
                what=f"range × {number(wanted_factor, 2)}",
                value=f"takes {decibels(needed)}",
                formula="10 n lg(factor)",
                source=f"log-distance law, n = {number(exponent)}",
            )
        )
        lines += _ways(needed, power_dbm, spreading_factor)
    return Answers(lines=lines, says=says)


def _strip_line(added: float, exponent: float) -> Line:
    def times(n: float) -> str:
        return f"× {number(float(range_factor(added, n)), 2)}"

    beside = "" if exponent == FREE else f", free space {times(FREE)}"
    beside += "" if exponent == INSIDE else f", inside {times(INSIDE)}"
    return Line(
        what=decibels(added),
        value=f"{times(exponent)} in range{beside}; × {float(ratio_from_db(added)):.3g} in power",
        formula="10^(dB / (10 n))",
        source=f"log-distance law, n = {number(exponent)}; 2 in free space, {INSIDE:g} inside ({PRACTICE})",
    )


def _ways(needed_db: float, power_dbm: float | None, spreading_factor: int | None) -> list[Line]:
    """Return what gives decibels: power, antennas, or a slower data rate, each alone."""
    ratio = float(ratio_from_db(needed_db))
    power = (
        f"{ratio:.3g} times the power"
        if power_dbm is None
        else f"{level(power_dbm)} to {level(power_dbm + needed_db)}, {watts(power_dbm + needed_db)}"
    )
    half = number(needed_db / 2, 1, sign=True)
    lines = [
        Line(what="… by power alone", value=power, formula="P + dB", source=DEFINITION),
        Line(what="… by antennas alone", value=f"{decibels(needed_db)} at one end, or {half} dB at both", formula="gains add up", source=DEFINITION),
    ]  # fmt: skip
    if spreading_factor is None:
        rate = f"{ratio:.3g} times slower at the same energy a bit"
        lines.append(Line(what="… by data rate alone", value=rate, formula="1 / 10^(dB / 10)", source=PRACTICE))  # fmt: skip
    else:
        lines.append(_rate_line(needed_db, spreading_factor))
    return lines


def _rate_line(needed_db: float, start: int) -> Line:
    """Return the spreading factor that gives decibels at the same bandwidth, and what it costs on the air."""

    def setting(sf: int) -> RadioSetting:
        return RadioSetting(
            modulation="chirp",
            frequency_hz=868e6,
            bandwidth_hz=125e3,
            payload_bytes=12,
            spreading_factor=sf,
        )

    here = setting(start)
    ladder = range(start + 1, 13) if needed_db > 0 else range(start, 4, -1)
    for sf in ladder:
        gained = here.required_snr_db - setting(sf).required_snr_db
        if (needed_db > 0 and gained >= needed_db - 0.05) or (
            needed_db <= 0 and gained <= needed_db
        ):
            times = setting(sf).airtime_s / here.airtime_s
            value = f"SF{start} to SF{sf}: {decibels(gained)}, × {times:.3g} on the air"
            break
    else:
        end = 12 if needed_db > 0 else 5
        gained = here.required_snr_db - setting(end).required_snr_db
        value = f"not by it alone: SF{start} to SF{end} gives {decibels(gained)}"
    return Line(what="… by data rate alone", value=value, formula="difference of the S/N required", source="chirp spread spectrum, docs/method.md")  # fmt: skip
