"""From what was typed to an answer: each question's fields by the names of its form."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from inchmark.core.airtime.setting import RadioSetting
from inchmark.workbench.figures.air import air_answers
from inchmark.workbench.figures.answers import Answers
from inchmark.workbench.figures.antennas import antenna_answers
from inchmark.workbench.figures.decibels import brings_answers, power_answers
from inchmark.workbench.figures.in_the_way import in_the_way_answers
from inchmark.workbench.figures.inductive import inductive_answers
from inchmark.workbench.figures.limits import limit_answers
from inchmark.workbench.figures.reach import reach_answers

Typed = Mapping[str, Any]
USUAL_HZ = {"chirp": 868e6}
BAND_HZ = 2.44e9


def power(typed: Typed) -> Answers:
    """Answer what power that is."""
    return power_answers(power_dbm=typed["power"], gain_dbi=typed["gain"], lead_db=typed["lead"])


def brings(typed: Typed) -> Answers:
    """Answer what a decibel brings."""
    return brings_answers(
        exponent=typed["exponent"],
        wanted_factor=typed["factor"],
        power_dbm=typed["power"],
        spreading_factor=typed["spreading"],
    )


def reach(typed: Typed) -> Answers:
    """Answer how far a link should reach."""
    return reach_answers(
        power_dbm=typed["power"],
        gains_dbi=typed["gains"],
        losses_db=typed["losses"],
        sensitivity_dbm=typed["sensitivity"],
        frequency_hz=typed["frequency"],
        height1_m=typed["height1"],
        height2_m=typed["height2"],
        surrounding=typed["surrounding"],
        loss=typed["loss"] / 100,
        places=typed["places"] / 100,
    )


def antenna(typed: Typed) -> Answers:
    """Answer how long a wire is and how wide a beam."""
    return antenna_answers(
        frequency_hz=typed["frequency"],
        velocity_factor=typed["velocity"],
        largest_m=typed["largest"],
        width_deg=typed["width"],
        off_deg=typed["off"],
        former_m=typed["former"],
        pitch_m=typed["pitch"],
    )


def air(typed: Typed) -> Answers:
    """Answer how long a frame is on the air.

    Raises
    ------
    ValueError
        No radio can be set so, or a message outlasts its period; says which.
    """
    setting = RadioSetting(
        modulation=typed["modulation"],
        frequency_hz=USUAL_HZ.get(typed["modulation"], BAND_HZ),
        bandwidth_hz=typed["bandwidth"] or 125e3,
        payload_bytes=typed["payload"],
        spreading_factor=typed["spreading"],
    )
    return air_answers(
        setting,
        duty_percent=typed["duty"],
        period_s=typed["period"],
        sending_a=typed["sending"],
        sleeping_a=typed["sleeping"],
        capacity_ah=typed["capacity"],
        supply_v=typed["supply"],
        bank_a=typed["bank"],
    )


def limits(typed: Typed) -> Answers:
    """Answer what is allowed at a frequency."""
    return limit_answers(frequency_hz=typed["frequency"], region=typed["region"])


def inductive(typed: Typed) -> Answers:
    """Answer how far two loops couple."""
    return inductive_answers(
        distance_m=typed["distance"],
        radius1_m=typed["radius1"],
        radius2_m=typed["radius2"],
        quality1=typed["quality1"],
        quality2=typed["quality2"],
        power_dbm=typed["power"],
        needs_dbm=typed["needs"],
    )


def in_the_way(typed: Typed) -> Answers:
    """Answer what stands in the way."""
    return in_the_way_answers(
        frequency_hz=typed["frequency"], thickness_m=typed["thickness"], wood_m=typed["wood"]
    )
