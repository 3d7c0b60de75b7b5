"""Cautions that apply to one plan only. They defer to local rules and to licensed people."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Caution:
    """A condition of the day, and what it asks for."""

    key: str
    when: str
    text: str


CAUTIONS = (
    Caution(
        "roof",
        "a roof, mast or ladder is used",
        "Two people, a harness where falling is possible, nobody under it; keep clear of power lines. The owner and local rules say who may climb.",
    ),
    Caution(
        "water",
        "near water or tide",
        "Look the tide up and set a time to turn back. Never alone on mud or sea walls; wear a float. Local wardens know the ground.",
    ),
    Caution(
        "traffic",
        "on or beside a road",
        "Bright clothes, face the traffic, stop off the carriageway. The driver does not log.",
    ),
    Caution(
        "drone",
        "a drone lifts an end",
        "Its pilot answers for it: registration, height, people below. Local aviation rules decide.",
    ),
    Caution(
        "lightning",
        "thunder in the forecast",
        "No mast, no open ground while thunder can be heard; wait 30 minutes after the last.",
    ),
    Caution(
        "power",
        "high power is sent",
        "Keep away from the antenna while it transmits; distances follow local exposure rules. Never transmit without antenna or load.",
    ),
    Caution(
        "mains",
        "mains power is used outdoors",
        "A residual-current device and outdoor leads; connections off wet ground. Fixed wiring is for licensed people.",
    ),
    Caution(
        "alone",
        "somebody works alone",
        "Tell somebody the route and when you are back, and carry a charged phone.",
    ),
)
HIGH_POWER_DBM = 30.0  # 1 W e.i.r.p.; below it usual distances suffice (common practice)


def that_apply(chosen: Iterable[str], *, strongest_eirp_dbm: float) -> list[Caution]:
    """Return the cautions of a plan: those chosen, and high power where it is sent."""
    keys = set(chosen)
    if strongest_eirp_dbm >= HIGH_POWER_DBM:
        keys.add("power")
    return [one for one in CAUTIONS if one.key in keys]
