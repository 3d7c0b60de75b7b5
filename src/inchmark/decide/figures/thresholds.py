"""What limits a receiver: the walk, the bench, the datasheet, its own noise, the place's noise.

Every one is the level at which half of the frames are lost; what a datasheet states at another
loss is converted where sensitivities are (core, threshold), and said.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.reading.result import Reading
from inchmark.core.threshold import Sensitivity
from inchmark.core.wording import level, number
from inchmark.shelf.adapters.ends import datasheet_sensitivity
from inchmark.shelf.adapters.settings import computed_sensitivity, radio_setting
from inchmark.shelf.models import Rig

WALKED = "walked"


@dataclass(frozen=True, slots=True, kw_only=True)
class Threshold:
    """A level at which half of the frames are lost [dBm], or the nearest to it that is known."""

    key: str
    name: str
    dbm: float
    source: str
    used: bool = False


def thresholds_of(rig: Rig, reading: Reading | None, wanted: str = "") -> list[Threshold]:
    """Return every threshold known for a rig; the one asked for, or the best known, is used."""
    found = list(_found(rig, reading))
    keys = [threshold.key for threshold in found]
    used = wanted if wanted in keys else keys[0]
    return [replace(threshold, used=threshold.key == used) for threshold in found]


def _found(rig: Rig, reading: Reading | None) -> Iterator[Threshold]:
    """Yield thresholds, the best known first."""
    walked = reading.of_rig(rig.letter) if reading else None
    if walked and walked.threshold_dbm:
        words = "walked" if walked.edge_reached else "prior of the bench or datasheet, walked"
        yield Threshold(
            key=WALKED,
            name="Walked",
            dbm=walked.threshold_dbm.estimate - rig.rssi_offset_db,
            source=f"half of the frames lost, {words}",
        )
    if rig.conducted_dbm is not None:
        yield Threshold(
            key="conducted", name="Conducted", dbm=rig.conducted_dbm, source=rig.conducted_source
        )
    datasheet = datasheet_sensitivity(rig)
    if datasheet:
        yield _stated("datasheet", "Datasheet", datasheet)
    yield _stated("noise-figure", "Its own noise", computed_sensitivity(rig, rig.noise_figure_db))
    noise = _noise_dbm(rig, reading)
    if noise is not None:
        radio = radio_setting(rig)
        snr = radio.required_snr_db
        source = f"noise {level(noise)} at the stops, median, {number(snr)} dB S/N needed"
        stated = Sensitivity(dbm=noise + snr, loss=radio.required_snr_loss, source=source)
        yield _stated("site-noise", "Noise at the stops", stated)


def _stated(key: str, name: str, stated: Sensitivity) -> Threshold:
    return Threshold(key=key, name=name, dbm=stated.threshold_dbm, source=stated.words)


def _noise_dbm(rig: Rig, reading: Reading | None) -> float | None:
    """Return the median noise logged at a rig's visits [dBm], its RSSI's offset taken off."""
    logged = [
        visit.noise_dbm
        for visit in (reading.visits if reading else ())
        if visit.rig == rig.letter and visit.noise_dbm is not None
    ]
    return float(np.median(logged)) - rig.rssi_offset_db if logged else None
