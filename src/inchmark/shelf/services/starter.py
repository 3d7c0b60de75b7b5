"""Rigs made of the starter shelf's parts, for the demo and for practice."""

from __future__ import annotations

from typing import Any

from inchmark.shelf.models import Rig
from inchmark.studies.models import Study

# names of parts on the starter shelf
MODULE, FEED, FIXED_FEED, FIXED_ANTENNA, BATTERY = (
    "Dulse L8", "pigtail 0.1 m", "coax 1.2 m", "half-wave whip", "D cell",
)  # fmt: skip


def starter_rig(study: Study, letter: str, setting: str, antenna: str, **ends: Any) -> Rig:
    """Return a rig of a setting and an antenna of the starter shelf, not kept yet; `ends` are its own fields."""
    antennas, feeds = study.antenna_parts, study.feed_parts
    return Rig(
        letter=letter,
        setting_part=study.settings.get(module__name=MODULE, name=setting),
        antenna_part=antennas.get(name=antenna),
        feed_part=feeds.get(name=FEED),
        fixed_antenna_part=antennas.get(name=FIXED_ANTENNA),
        fixed_feed_part=feeds.get(name=FIXED_FEED),
        battery=study.battery_parts.get(name=BATTERY),
        **ends,
    )
