"""Invented studies with known truth for `bench.coverage`: one regime is one kind of site and gear.

The link model run forward with what real gear adds: clipped and coarse readings, wrong slopes,
interference, stretches that change, relays, reflections from the ground.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from scipy.special import ndtr, ndtri

from inchmark.core.link_model.data import LinkKey
from inchmark.core.reading.analysis import Walked
from inchmark.core.reading.laws import ground_law
from inchmark.core.reading.measured import (
    TO_CARRIED,
    TO_FIXED,
    MeasuredVisit,
    ReceiverFacts,
    RigFacts,
    RigPrior,
    SiteFacts,
    StopFacts,
    TerrainFacts,
)
from inchmark.core.reception.visit import (
    HandCount,
    VisitFrames,
    VisitKey,
    counted_visit,
    summarise_visit,
)
from inchmark.core.simulation import correlated_fading

CENTRE_M = 150.0
THETA_DBM, REFERENCE_NOISE_DBM = -112.0, -118.0
SNR_TOP_DB = 24.0  # as far above the threshold as a chirp receiver reports
HEARD_TOGETHER_KAPPA = 0.7
PLACES = 4000  # drawn to find the true range of several links together


@dataclass(frozen=True, slots=True, kw_only=True)
class Regime:
    """One kind of study; defaults are the ordinary one (section 10 of the method)."""

    name: str
    rigs: int = 3
    stops: tuple[float, ...] = tuple(np.geomspace(25, 1000, 10))
    frames: int = 150
    exponent: float = 3.2
    sigma_s: float = 5.0
    sigma_e: float = 2.0
    sigma_f: float = 3.0
    sigma_t: float = 0.7
    waterfall: float = 1.0
    floor: float = 0.005
    lag1: float = 0.3
    level_dbm: float = -89.0  # at 150 m
    spread_db: float = 4.0  # between rigs
    clip_dbm: float | None = None
    step_db: float = 1.0
    datasheet_off_db: float | None = None  # drawn with sd 4 if None
    rssi_slope: float = 1.0
    snr: bool = False  # the log carries S/N
    disturbed: float = 0.0  # share of visits with interference
    jammed: float = 0.0  # share of visits with a stretch of it
    directions: bool = False
    receivers: int = 1
    penalties: bool = False
    counts_only: bool = False
    rings: bool = False
    noise_sd_db: float = 0.0
    relayed: bool = False
    equal: bool = False
    break_m: float | None = None
    below_noise: bool = False
    correlated_m: float = 0.0
    terrain_db: float = 0.0  # sd of what known terrain adds at stops


@dataclass(slots=True, kw_only=True)
class Truth:
    """What holds in an invented study, by link; ranges at 10 % loss and 90 % of places."""

    level: dict[LinkKey, float] = field(default_factory=dict)
    threshold: dict[LinkKey, float] = field(default_factory=dict)
    range_m: dict[LinkKey, float] = field(default_factory=dict)
    penalty: dict[tuple[str, str], float] = field(default_factory=dict)
    exchange_m: dict[tuple[str, str], float] = field(default_factory=dict)  # by rig and receiver
    any_m: dict[str, float] = field(default_factory=dict)  # by rig, at any receiver
    exponent: float | None = None
    visit_level: dict[VisitKey, float] = field(default_factory=dict)
    visit_loss: dict[VisitKey, float] = field(default_factory=dict)
    disturbed: set[VisitKey] = field(default_factory=set)
    jammed: set[VisitKey] = field(default_factory=set)


def invent(regime: Regime, seed: int) -> tuple[Walked, Truth]:
    """Return an invented study and what holds in it."""
    return _Study(regime, np.random.default_rng([20_26, seed])).walk()


class _Study:
    def __init__(self, regime: Regime, random: np.random.Generator) -> None:
        self.regime, self.random, self.truth = regime, random, Truth()
        self.rigs = "ABCDEFGH"[: regime.rigs]
        self.receivers = (
            [f"r{i}" for i in range(regime.receivers)] if regime.receivers > 1 else [""]
        )
        self.directions = (TO_FIXED, TO_CARRIED) if regime.directions else ("",)
        self.conditions = ("", "metal") if regime.penalties else ("",)
        self.site = SiteFacts(receivers=tuple(ReceiverFacts(name=name) for name in self.receivers))
        self.loss = self._path()

    def _path(self) -> Callable[[float], float]:
        regime = self.regime
        if regime.break_m is None:
            self.truth.exponent = regime.exponent
            return lambda d: 10 * regime.exponent * np.log10(d / CENTRE_M)
        # heights that put the break there at 868 MHz
        height = regime.break_m * 299_792_458 / 868e6 / 4 / 1.5
        self.site = replace(
            self.site, frequency_hz=868e6, fixed_height_m=height, carried_height_m=1.5
        )
        law = ground_law(self.site)
        return lambda d: float(law.known_db(np.array(d), CENTRE_M))

    def walk(self) -> tuple[Walked, Truth]:
        regime, random = self.regime, self.random
        off = regime.datasheet_off_db
        off = float(random.normal(0, 4)) if off is None else off
        rho = {
            rig: regime.level_dbm + (0 if regime.equal else random.normal(0, regime.spread_db))
            for rig in self.rigs
        }
        gain = {name: random.normal(0, 8) if i else 0.0 for i, name in enumerate(self.receivers)}
        lead = {rig: 6 + random.normal(0, 4) for rig in self.rigs}
        cost = {rig: float(random.normal(10, 6)) for rig in self.rigs}
        unit = {rig: random.normal(0, 1) for rig in self.rigs}
        for rig in self.rigs:
            for direction in self.directions:
                for name in self.receivers:
                    link = LinkKey(rig, direction, name)
                    up = lead[rig] if direction == TO_CARRIED else 0.0
                    self.truth.level[link] = rho[rig] + gain[name] + up
                    self.truth.threshold[link] = THETA_DBM + off + unit[rig]
            if regime.penalties:
                self.truth.penalty[rig, "metal"] = cost[rig]
        visits = list(self._visits())
        self._ranges()
        return self._walked(visits), self.truth

    def _walked(self, visits: list[MeasuredVisit]) -> Walked:
        facts = {
            rig: RigFacts(prior=RigPrior(module_type="m", sensitivity_dbm=THETA_DBM))
            for rig in self.rigs
        }
        return Walked(
            visits=tuple(visits),
            facts=facts,
            stops={v.key.stop: StopFacts() for v in visits},
            site=self.site,
            reference_noise_dbm=float(self._reading(REFERENCE_NOISE_DBM)),
        )

    def _shadow(self, distances: list[float]) -> np.ndarray:
        r = self.regime
        if not r.correlated_m:
            return self.random.normal(0, r.sigma_s, len(distances))
        apart = np.abs(np.subtract.outer(distances, distances))
        cover = r.sigma_s**2 * np.exp(-apart / r.correlated_m)
        return self.random.multivariate_normal(np.zeros(len(distances)), cover)

    def _visits(self):
        r, random = self.regime, self.random
        distances = list(r.stops)
        if r.rings:
            distances = [d for d in (100.0, 250.0, 500.0) for _ in range(4)]
        shadow = {name: self._shadow(distances) for name in self.receivers}
        bumps = random.normal(0, r.terrain_db, len(distances)) if r.terrain_db else None
        if bumps is not None:
            self._know_terrain(distances, bumps)
            shadow = {name: own - bumps for name, own in shadow.items()}
        for i, d in enumerate(distances):
            noise = random.normal(0, r.noise_sd_db) if r.noise_sd_db else 0.0
            for rig in self.rigs:
                for condition in self.conditions:
                    for name in self.receivers:
                        shared = random.normal(0, np.sqrt(HEARD_TOGETHER_KAPPA) * r.sigma_e)
                        for direction in self.directions:
                            key = VisitKey(rig, str(i), condition, direction, name)
                            mean = self._mean(key, d, shadow[name][i], shared)
                            yield self._visit(key, d, mean, noise)

    def _know_terrain(self, distances: list[float], bumps: np.ndarray) -> None:
        grid = np.geomspace(min(distances) / 2, 3 * max(distances), 24)
        at_stops = {
            str(i): self.loss(d) + b for i, (d, b) in enumerate(zip(distances, bumps, strict=True))
        }
        self.site = replace(
            self.site,
            terrain=TerrainFacts(
                at_stops=at_stops,
                distance_m=tuple(grid),
                loss_db=tuple(float(self.loss(d)) for d in grid),
            ),
        )
        self.truth.exponent = None  # the slope left over is the law's own affair

    def _mean(self, key: VisitKey, d: float, shadow: float, shared: float) -> float:
        r = self.regime
        own = self.random.normal(0, np.sqrt(1 - HEARD_TOGETHER_KAPPA) * r.sigma_e)
        link = LinkKey(key.rig, key.direction, key.receiver)
        cost = self.truth.penalty.get((key.rig, key.condition), 0.0)
        return self.truth.level[link] - self.loss(d) + shadow + shared + own - cost

    def _visit(self, key: VisitKey, d: float, mean: float, noise: float) -> MeasuredVisit:
        r, random, n = self.regime, self.random, self.regime.frames
        link = LinkKey(key.rig, key.direction, key.receiver)
        theta = self.truth.threshold[link] + noise + random.normal(0, r.sigma_t)
        level = mean + r.sigma_f * correlated_fading(self.random, n, lag1=self.regime.lag1)
        share = (1 - r.floor) * ndtr((level - theta) / r.waterfall)
        s = np.hypot(r.sigma_f, r.waterfall)
        self.truth.visit_loss[key] = 1 - (1 - r.floor) * float(ndtr((mean - theta) / s))
        self.truth.visit_level[key] = self._told(mean)
        share = self._disturb(key, share)
        heard = random.random(n) < share
        if r.counts_only:
            counts = [HandCount(sent=n, heard=int(heard.sum()))]
            return MeasuredVisit(key=key, distance_m=d, summary=counted_visit(counts))
        rssi = self._reading(level)
        if r.clip_dbm is not None:
            rssi = np.minimum(rssi, r.clip_dbm)
        rssi = np.where(heard, np.round(rssi / r.step_db) * r.step_db, np.nan)
        logged = self._reading(REFERENCE_NOISE_DBM + noise) + np.round(random.normal(0, 0.7, n))
        snr = np.full(n, np.nan)
        if r.snr:
            told = level - REFERENCE_NOISE_DBM - noise + random.normal(0, 0.8, n)
            snr = np.where(heard, np.minimum(np.round(4 * told) / 4, SNR_TOP_DB), np.nan)
        frames = VisitFrames(
            seq=np.arange(n),
            heard=heard,
            rssi_dbm=rssi,
            snr_db=snr,
            noise_dbm=logged if not r.jammed else np.full(n, np.nan),
            time_s=np.full(n, np.nan),
        )
        if r.relayed:
            frames = self._relay(frames)
        return MeasuredVisit(key=key, distance_m=d, summary=summarise_visit(frames))

    def _reading(self, level):
        """Return what the gear reports for a level; a slope under 1 turns about -80 dBm."""
        return -80 + self.regime.rssi_slope * (level + 80)

    def _ranges_together(self, grid: np.ndarray, loss: np.ndarray) -> None:
        """Find where both directions arrive, and where some receiver hears, by drawn places."""
        r, drawn = self.regime, np.random.default_rng(17)
        places = {
            name: drawn.normal(0, r.sigma_s, PLACES)
            + drawn.normal(0, np.sqrt(HEARD_TOGETHER_KAPPA) * r.sigma_e, PLACES)
            for name in self.receivers
        }
        own_db = np.sqrt((1 - HEARD_TOGETHER_KAPPA) * r.sigma_e**2 + r.sigma_t**2)
        own = {link: drawn.normal(0, own_db, PLACES) for link in self.truth.level}

        def arrives(link: LinkKey, metres_loss: float) -> np.ndarray:
            margin = self.truth.level[link] - metres_loss - self.truth.threshold[link]
            hand = margin + places[link.receiver] + own[link]
            return (1 - r.floor) * ndtr(hand / np.hypot(r.sigma_f, r.waterfall))

        def farthest(links: list[LinkKey], *, all_of_them: bool) -> float:
            low, high = 0, len(grid) - 1
            while high - low > 1:
                middle = (low + high) // 2
                shares = np.array([arrives(link, loss[middle]) for link in links])
                both = shares.prod(axis=0) if all_of_them else 1 - (1 - shares).prod(axis=0)
                fine = np.mean(both >= 0.9) >= 0.9
                low, high = (middle, high) if fine else (low, middle)
            return float(grid[low])

        for rig in self.rigs:
            links = [link for link in self.truth.level if link.rig == rig]
            if len(self.directions) > 1:
                for name in self.receivers:
                    legs = [link for link in links if link.receiver == name]
                    self.truth.exchange_m[rig, name] = farthest(legs, all_of_them=True)
            if len(self.receivers) > 1:
                self.truth.any_m[rig] = farthest(links, all_of_them=False)

    def _told(self, level):
        """Return what a level should be read as: in true dB where S/N shows the slope.

        Else on the gear's own scale.
        """
        if not self.regime.snr:
            return self._reading(level)
        return self._reading(REFERENCE_NOISE_DBM) + level - REFERENCE_NOISE_DBM

    def _disturb(self, key: VisitKey, share: np.ndarray) -> np.ndarray:
        r, random, n = self.regime, self.random, self.regime.frames
        if random.random() < r.disturbed:
            self.truth.disturbed.add(key)
            return share * (1 - random.uniform(0.15, 0.5))
        if random.random() < r.jammed:
            self.truth.jammed.add(key)
            start = int(random.uniform(0.1, 0.6) * n)
            share = share.copy()
            share[start : start + int(0.3 * n)] *= 0.2
        return share

    def _relay(self, frames: VisitFrames) -> VisitFrames:
        """A relay brings half of what was lost, at a level of its own."""
        brought = ~frames.heard & (self.random.random(len(frames.heard)) < 0.5)
        return replace(
            frames,
            heard=frames.heard | brought,
            rssi_dbm=np.where(brought, -70.0, frames.rssi_dbm),
            relayed=brought,
        )

    def _ranges(self) -> None:
        r = self.regime
        spread = np.sqrt(r.sigma_s**2 + r.sigma_e**2 + r.sigma_t**2)
        frame = np.hypot(r.sigma_f, r.waterfall)
        keep = frame * ndtri(0.9 / (1 - r.floor)) + ndtri(0.9) * spread
        grid = np.geomspace(1, 1e5, 4000)
        loss = np.array([self.loss(d) for d in grid])
        for link, level in self.truth.level.items():
            budget = level - self.truth.threshold[link] - keep
            below = np.flatnonzero(loss <= budget)
            self.truth.range_m[link] = float(grid[below[-1]]) if len(below) else 1.0
        self._ranges_together(grid, loss)
        self.truth.level = {k: float(self._told(v)) for k, v in self.truth.level.items()}
        self.truth.threshold = {k: float(self._told(v)) for k, v in self.truth.threshold.items()}
        if not r.snr and self.truth.exponent:
            self.truth.exponent *= r.rssi_slope


def regimes() -> Mapping[str, Regime]:
    """Return all regimes by name."""
    few = tuple(np.geomspace(25, 1000, 4))
    found = (
        Regime(name="ordinary", snr=True),
        Regime(name="fading", lag1=0.95, snr=True),
        Regime(name="dense", stops=tuple(np.geomspace(25, 1000, 20)), correlated_m=80.0),
        Regime(name="clip", clip_dbm=-86.0),
        Regime(name="coarse RSSI", step_db=4.0, snr=True),
        Regime(name="datasheet 7 dB wrong, edge", datasheet_off_db=7.0),
        Regime(name="datasheet 7 dB wrong, no edge", datasheet_off_db=7.0, level_dbm=-50.0),
        Regime(name="ground, break inside", break_m=120.0),
        Regime(name="ground, break outside", break_m=1400.0, level_dbm=-86.0),
        Regime(name="terrain known", terrain_db=8.0, sigma_s=3.0),
        Regime(name="interference in half", disturbed=0.5),
        Regime(name="jam in mid-visit", jammed=0.3),
        Regime(name="RSSI slope 0.88, no S/N", rssi_slope=0.88),
        Regime(name="RSSI slope 0.88", rssi_slope=0.88, snr=True),
        Regime(name="ping and reply", rigs=2, directions=True, frames=100),
        Regime(
            name="five receivers",
            rigs=2,
            receivers=5,
            frames=50,
            stops=tuple(np.geomspace(50, 1000, 8)),
        ),
        Regime(name="relays", relayed=True),
        Regime(name="penalties by rig", rigs=2, penalties=True, frames=100),
        Regime(
            name="counts only",
            rigs=2,
            counts_only=True,
            frames=30,
            stops=tuple(np.geomspace(50, 1000, 8)),
        ),
        Regime(name="rings", rings=True),
        Regime(name="unequal noise", noise_sd_db=4.0, snr=True),
        Regime(name="five equal rigs", rigs=5, equal=True),
        Regime(name="tiny", rigs=2, stops=few, frames=30),
        Regime(name="nothing lost", level_dbm=-40.0),
        Regime(name="open", sigma_s=2.0, sigma_e=1.0),
        Regime(name="town", sigma_s=9.0, sigma_e=3.5),
    )
    return {one.name: one for one in found}
