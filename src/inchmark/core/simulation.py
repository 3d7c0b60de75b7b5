"""Invented walks with known truth: the link model run forward, from a seeded generator.

Used for the demo study, the simulated boards and the tests; the same symbols as the link model.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.frame_spread import FADING_DB, WATERFALL_DB
from inchmark.core.normal import ndtr


@dataclass(frozen=True, slots=True, kw_only=True)
class SimulatedRig:
    """What a simulated rig truly does.

    Level at 1 m by the path law's intercept [dBm] (with no path between, where the site knows the
    loss of its paths), half-loss level [dBm], RSSI offset of the part [dB]. A receiver that works below its noise reports signal plus noise:
    `rssi_includes_noise`.
    """

    level_at_1m_dbm: float
    threshold_dbm: float
    offset_db: float = 0.0
    rssi_includes_noise: bool = False

    def reading_dbm(self, level_dbm: float, noise_dbm: float) -> int:
        """Return what the part reports for a level [dBm], rounded to its step of 1 dB."""
        if self.rssi_includes_noise:
            level_dbm = float(10 * np.log10(10 ** (level_dbm / 10) + 10 ** (noise_dbm / 10)))
        return round(level_dbm + self.offset_db)


@dataclass(frozen=True, slots=True, kw_only=True)
class SimulatedSite:
    """Slope and spreads of the invented place [dB].

    `loss_db` is the loss of paths that are known, by rig and stop; the slope holds for the others.
    """

    exponent: float = 3.0
    sigma_s_db: float = 3.0
    sigma_e_db: float = 1.0
    sigma_f_db: float = FADING_DB
    sigma_t_db: float = 0.5
    waterfall_db: float = WATERFALL_DB
    floor: float = 0.003
    noise_dbm: float = -117.5
    fading_lag1: float = 0.3
    penalties_db: Mapping[str, float] = field(default_factory=dict)
    loss_db: Mapping[tuple[str, str], float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class SimulatedFrame:
    """One transmission as a log would hold it; levels None where it was not heard."""

    rig: str
    stop: str
    seq: int
    heard: bool
    rssi_dbm: float | None
    snr_db: float | None
    noise_dbm: float
    time_s: float
    condition: str = ""


@dataclass(slots=True)
class SimulatedWalk:
    """A site walked once: shadowing is drawn when a stop is first met, and kept."""

    site: SimulatedSite
    rigs: Mapping[str, SimulatedRig]
    random: np.random.Generator
    shadow: dict[str, float] = field(default_factory=dict)
    counters: dict[str, int] = field(default_factory=dict)

    def visit(
        self,
        rig: str,
        stop: str,
        distance_m: float,
        frames: int,
        *,
        start_s: float = 0.0,
        interval_s: float = 1.0,
        condition: str = "",
    ) -> Iterator[SimulatedFrame]:
        """Yield the frames of one visit in the order sent."""
        site, random, one = self.site, self.random, self.rigs[rig]
        if stop not in self.shadow:
            self.shadow[stop] = float(random.normal(0, site.sigma_s_db))
        by_slope = 10 * site.exponent * float(np.log10(distance_m))
        mean = one.level_at_1m_dbm - site.loss_db.get((rig, stop), by_slope)
        mean += self.shadow[stop] + random.normal(0, site.sigma_e_db)
        mean -= site.penalties_db.get(condition, 0.0)
        threshold = one.threshold_dbm + random.normal(0, site.sigma_t_db)
        levels = mean + site.sigma_f_db * correlated_fading(
            self.random, frames, lag1=self.site.fading_lag1
        )
        share = (1 - site.floor) * ndtr((levels - threshold) / site.waterfall_db)
        heard = random.random(frames) < share
        first = self.counters.get(rig, 0)
        self.counters[rig] = first + frames
        for i in range(frames):
            noise = round(float(random.normal(site.noise_dbm, 0.7)))
            true = float(levels[i])
            yield SimulatedFrame(
                rig=rig,
                stop=stop,
                seq=first + i,
                heard=bool(heard[i]),
                condition=condition,
                rssi_dbm=one.reading_dbm(true, site.noise_dbm) if heard[i] else None,
                snr_db=round((true - site.noise_dbm + float(random.normal(0, 0.5))) * 4) / 4
                if heard[i]
                else None,
                noise_dbm=float(noise),
                time_s=start_s + i * interval_s,
            )


def correlated_fading(random: np.random.Generator, frames: int, *, lag1: float) -> Floats:
    """Return fading of frames in a row (frames,), each like the one before by `lag1`, unit spread."""
    noise = random.standard_normal(frames)
    found = np.empty(frames)
    last = random.standard_normal()
    for i in range(frames):
        last = lag1 * last + np.sqrt(1 - lag1**2) * noise[i]
        found[i] = last
    return found
