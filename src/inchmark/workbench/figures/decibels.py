"""Decibels: powers in every unit, and what a decibel brings in range."""

from __future__ import annotations

import math

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


def brings_answers(*, exponent: float, wanted_factor: float | None) -> Answers:
    """Return what decibels bring in range at a path-loss exponent, and what a factor on range takes."""
    lines = [
        Line(
            what=decibels(added),
            value=f"× {number(float(range_factor(added, exponent)), 2)} in range, × {float(ratio_from_db(added)):.3g} in power",
            formula="10^(dB / (10 n))",
            source=f"log-distance law, n = {number(exponent)}",
        )
        for added in STRIP_DB
    ]
    says = []
    if exponent != 2.0:
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
        says.append(
            f"{decibels(needed)} are {float(ratio_from_db(needed)):.3g} times the power, antennas better by so much at both ends together, "
            f"or a data rate lower by {float(ratio_from_db(needed)):.3g} at the same energy a bit ({PRACTICE})."
        )
    return Answers(lines=lines, says=says)
