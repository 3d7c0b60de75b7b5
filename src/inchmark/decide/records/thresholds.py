"""What limits a receiver: the walk, the bench, the datasheet, its own noise, the place's noise."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from inchmark.core.wording import level, number
from inchmark.shelf.models import Rig
from inchmark.shelf.records.settings import computed_sensitivity, radio_setting


@dataclass(frozen=True, slots=True, kw_only=True)
class Threshold:
    """A level half of the frames are lost at [dBm], or the nearest to it that is known."""

    key: str
    name: str
    dbm: float
    source: str
    used: bool = False


def thresholds_of(
    rig: Rig, one: dict[str, Any] | None, data: dict[str, Any], wanted: str = ""
) -> list[Threshold]:
    """Return every threshold known for a rig; the one asked for, or the best known, is used."""
    found = list(_found(rig, one, data))
    keys = [threshold.key for threshold in found]
    used = wanted if wanted in keys else keys[0]
    return [
        Threshold(key=t.key, name=t.name, dbm=t.dbm, source=t.source, used=t.key == used)
        for t in found
    ]


def _found(rig: Rig, one: dict[str, Any] | None, data: dict[str, Any]) -> Iterator[Threshold]:
    """Yield thresholds, the best known first."""
    walked = one["threshold_dbm"]["estimate"] if one else None
    if walked is not None and one is not None:
        words = "walked" if one["edge_reached"] else "prior of the bench or datasheet, walked"
        yield Threshold(key="walked", name="Walked", dbm=walked - rig.rssi_offset_db,
                        source=f"half of the frames lost, {words}")  # fmt: skip
    if rig.conducted_dbm is not None:
        yield Threshold(
            key="conducted", name="Conducted", dbm=rig.conducted_dbm, source=rig.conducted_source
        )
    if rig.sensitivity_dbm is not None:
        source = rig.sensitivity_source or "datasheet, as typed"
        yield Threshold(key="datasheet", name="Datasheet", dbm=rig.sensitivity_dbm, source=source)
    computed = computed_sensitivity(rig, rig.noise_figure_db)
    yield Threshold(
        key="noise-figure", name="Its own noise", dbm=computed.dbm, source=computed.source
    )
    noise = _noise_dbm(rig, data)
    if noise is not None:
        snr = radio_setting(rig).required_snr_db
        source = f"noise {level(noise)} at the stops, median, {number(snr)} dB S/N needed"
        yield Threshold(key="site-noise", name="Noise at the stops", dbm=noise + snr, source=source)


def _noise_dbm(rig: Rig, data: dict[str, Any]) -> float | None:
    """Return the median noise logged at a rig's visits [dBm], its RSSI's offset taken off."""
    logged = [
        visit["noise_dbm"]
        for visit in data.get("visits", [])
        if visit["rig"] == rig.letter and visit["noise_dbm"] is not None
    ]
    return float(np.median(logged)) - rig.rssi_offset_db if logged else None
