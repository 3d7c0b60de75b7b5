"""A decision as it could be written: what the reading says for a rig, and against the others."""

from __future__ import annotations

from typing import Any

from inchmark.core.reading.expected import served_words
from inchmark.core.reading.result import Reading, RigReading
from inchmark.core.wording import distance, number
from inchmark.decide.figures.notes import doubts
from inchmark.read.services import current_reading
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study


def draft_of(study: Study, rig: Rig | None, chosen: str, by: Any) -> dict[str, str]:
    """Return what the form begins with: sentences of the reading, to be changed by who decides."""
    kept = current_reading(study)
    who = by.get_full_name() or by.get_username()
    if kept is None or rig is None:
        return {"name": who, "chosen": chosen}
    reading = kept.reading
    one = reading.of_rig(rig.letter)
    return {
        "letter": rig.letter,
        "chosen": chosen or f"{rig.letter}: {rig.name}",
        "reasons": "\n".join(_reasons(reading, rig.letter, one)),
        "set_aside": "\n".join(_others(reading, rig.letter)),
        "uncertain": "\n".join(doubts(reading, rig.letter)),
        "name": who,
    }


def _reasons(reading: Reading, letter: str, one: RigReading | None) -> list[str]:
    found = []
    served = next((row for row in reading.served if row.rig == letter), None)
    if served and served.count:
        found.append(served_words(served))
    reach = one.loss_range_m if one else None
    if reach:
        found.append(
            f"{letter} reaches {distance(reach.estimate)} (95 %: {distance(reach.low)} to {distance(reach.high)}) under the rule."
        )
    needed = one.needed.in_hand_db if one and one.needed else None
    if needed and reading.needed_m:
        found.append(
            f"At {distance(reading.needed_m)} it has {number(needed.estimate, 1)} dB in hand ({number(needed.low, 1)} to {number(needed.high, 1)} dB)."
        )
    return found


def _others(reading: Reading, letter: str) -> list[str]:
    found = []
    for one in reading.rigs:
        if one.rig == letter:
            continue
        served = next((row for row in reading.served if row.rig == one.rig), None)
        reach = one.loss_range_m
        words = (
            f"reaches {distance(reach.estimate)} ({distance(reach.low)} to {distance(reach.high)})"
            if reach
            else "has no range the walk could tell"
        )
        count = (
            f", serves {served.count.estimate:.0f} of {len(served.places)}"
            if served and served.count
            else ""
        )
        found.append(f"{one.rig} {words}{count}.")
    return found
