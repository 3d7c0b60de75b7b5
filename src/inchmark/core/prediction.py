"""What paths should lose before anyone has walked them: a model, what covers them, and a spread.

Many paths of one frequency at once: arrays of shape (paths,), or figures that broadcast to it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.special import ndtr

from inchmark.core.checks import Floats, floats, within
from inchmark.core.frame_spread import FRAME_SPREAD_DB
from inchmark.core.link import Link
from inchmark.core.propagation.cover import (
    INDOORS,
    cover_loss_db,
    cover_model,
    cover_name,
    indoor_figures,
)
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.propagation.indoors import indoor_loss_db
from inchmark.core.propagation.inductive import coupled_loss_db
from inchmark.core.propagation.kept import KeptLaw
from inchmark.core.propagation.log_distance import LogDistanceLaw
from inchmark.core.propagation.two_ray import GROUNDS, two_ray_loss_db
from inchmark.core.propagation.validity import outside
from inchmark.core.propagation.walls import Walls

MODELS = ("log_distance", "free_space", "two_ray", "terrain", "indoor", "kept")
# path exponents from 1 m on, common practice for antennas near the ground
EXPONENTS = {"open": 2.7, "middling": 3.1, "cluttered": 3.6}
EIGHT_OF_TEN = 1.2816  # normal quantile of 0.9: the band holds 8 places of 10
LEAST_HEIGHT_M, LEAST_INDOORS_M = 0.1, 1.0
NO_TERRAIN = "No terrain covers this path; two rays over flat ground are taken."
NO_WALLS = "Walls are drawn, but the path has no coordinates at both ends: none is counted on it."


@dataclass(frozen=True, slots=True, kw_only=True)
class WalkedLaw:
    """What a walk taught: loss at a distance [dB, m], exponent, spread between places [dB].

    `by_rig` holds the loss each rig found there, on its own RSSI scale and with its own antennas;
    `words` say which walk it was. Where the walk was read with walls, the loss is without them, and
    `wall_factor` is what they cost against what was said of them.
    """

    loss_db: float
    at_m: float
    exponent: float
    shadowing_db: float
    by_rig: tuple[tuple[str, float], ...] = ()
    words: str = ""
    wall_factor: float | None = None

    def of_rig(self, letter: str) -> WalkedLaw:
        """Return the law as a rig found it; that of all where it was not walked."""
        return replace(self, loss_db=dict(self.by_rig).get(letter, self.loss_db))

    def loss_at(self, distance_m: Floats) -> Floats:
        """Return the loss at distances [dB]."""
        found: Floats = self.loss_db + 10 * self.exponent * np.log10(distance_m / self.at_m)
        return found


@dataclass(frozen=True, slots=True, kw_only=True)
class Surroundings:
    """How a site is predicted: model, class, ground, polarisation, spread between places [dB]."""

    model: str = "log_distance"
    openness: str = "middling"
    ground: str = "ground"
    polarisation: str = "vertical"
    building: str = "office"
    shadowing_db: float = 6.0
    walked: WalkedLaw | None = None  # goes before the model
    kept: KeptLaw | None = None  # of the model of that name
    walls: Walls | None = None  # drawn, and each counted where a path crosses it

    @property
    def wall_factor(self) -> float:
        """Return what walls cost against what is said of them: as walked, else as said.

        0 where a walk was read without them: they are in its slope and spread.
        """
        if self.walls is None:
            return 0.0
        return 1.0 if self.walked is None else self.walked.wall_factor or 0.0

    def for_rig(self, letter: str) -> Surroundings:
        """Return how a rig's paths are predicted."""
        return replace(self, walked=self.walked.of_rig(letter)) if self.walked else self

    def __post_init__(self) -> None:
        """Refuse what is unknown."""
        for value, known in (
            (self.model, MODELS),
            (self.openness, EXPONENTS),
            (self.ground, GROUNDS),
            (self.building, INDOORS),
        ):
            if value not in known:
                raise ValueError(f"{value!r} must be one of {', '.join(known)}")
        if self.model == "kept" and self.kept is None:
            raise ValueError("the model 'kept' needs the law that was kept")
        within("shadowing_db", self.shadowing_db, 0.1, 20)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Paths:
    """Paths by distance [m], with heights above ground [m] and what covers the far end.

    `diffraction_db` is what terrain costs [dB], NaN where no profile is known. `walls_db` is what
    drawn walls cost as they are said [dB], NaN where an end has no coordinates; `crossed` says which.
    `magnetic` tells that both antennas are loops or rods, which couple by their near field.
    """

    distance_m: Floats
    height1_m: Floats
    height2_m: Floats
    frequency_hz: float
    cover: Sequence[str] = ()
    cover_m: Floats | float = 0.0
    floors: Floats | float = 0.0
    diffraction_db: Floats | float = np.nan
    walls_db: Floats | float = np.nan
    crossed: Sequence[str] = ()
    magnetic: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class PathPrediction:
    """The median loss of one path [dB], its parts by name [dB], and where models do not hold."""

    loss_db: float
    parts: tuple[tuple[str, float], ...]
    warnings: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PathPredictions:
    """The median losses of paths [dB], and what each is made of."""

    base_db: Floats
    cover_db: Floats
    walls_db: Floats  # NaN where they cannot be counted
    paths: Paths
    names: Sequence[str]  # of what the base is
    models: Sequence[str]  # as `validity` knows them
    covers: Sequence[str]
    terrain: bool  # whether the site is predicted over terrain

    @property
    def loss_db(self) -> Floats:
        """Return the whole loss [dB]."""
        found: Floats = self.base_db + self.cover_db + np.nan_to_num(self.walls_db)
        return found

    def at(self, i: int) -> PathPrediction:
        """Return one path with its parts, and in sentences where models do not hold for it."""
        parts = [(self.names[i], float(self.base_db[i]))]
        if self.covers[i]:
            depth = float(np.broadcast_to(self.paths.cover_m, self.base_db.shape)[i])
            parts.append((cover_name(self.covers[i], depth), float(self.cover_db[i])))
        if self.walls_db[i] > 0:
            words = self.paths.crossed[i] if self.paths.crossed else "Walls"
            parts.append((words, float(self.walls_db[i])))
        return PathPrediction(
            loss_db=sum(db for _, db in parts), parts=tuple(parts), warnings=self._warnings(i)
        )

    def _warnings(self, i: int) -> tuple[str, ...]:
        model, cover, f = self.models[i], self.covers[i], self.paths.frequency_hz
        found = [NO_TERRAIN] if self.terrain and model == "two_ray" else []
        found += [NO_WALLS] if np.isnan(self.walls_db[i]) else []
        for one in [model, *([cover_model(cover, f)] if cover else [])]:
            found += outside(one, frequency_hz=f, distance_m=float(self.paths.distance_m[i]))
        return tuple(found)


def predict_paths(paths: Paths, site: Surroundings) -> PathPredictions:
    """Return what paths should lose at a typical place.

    Raises
    ------
    ValueError
        A distance, height or cover that none is.
    """
    d = floats("distance_m", paths.distance_m)
    covers = list(paths.cover) or [""] * len(d)
    depth = np.broadcast_to(floats("cover_m", paths.cover_m), d.shape)
    over = np.isfinite(np.broadcast_to(np.asarray(paths.diffraction_db, dtype=float), d.shape))
    walls_db = _walls(paths, site, len(d))
    models = _models(paths, site, over)
    models = _walled(models, walls_db) if site.walls is not None else models
    base, names = np.empty(len(d)), np.empty(len(d), dtype=object)
    for model in set(models):
        rows = np.array([one == model for one in models])
        names[rows], base[rows] = _base(model, paths, site, rows)
    return PathPredictions(
        base_db=base,
        cover_db=covers_db(covers, depth, paths),
        walls_db=walls_db,
        paths=paths,
        names=names.tolist(),
        models=models,
        covers=covers,
        terrain=site.model == "terrain" and site.walked is None,
    )


def _models(paths: Paths, site: Surroundings, over: np.ndarray) -> list[str]:
    if paths.magnetic:
        return ["inductive"] * len(over)
    if site.walked is not None:
        return ["walked"] * len(over)
    if site.model != "terrain":
        return [site.model] * len(over)
    return ["delta_bullington" if known else "two_ray" for known in over]


def _walled(models: list[str], walls_db: Floats) -> list[str]:
    """Return the models with drawn walls in place of the usual ones that P.1238 has in it."""
    known = np.isfinite(walls_db)
    return [
        "multi_wall" if one == "indoor" and counted else one
        for one, counted in zip(models, known, strict=True)
    ]


def _base(model: str, paths: Paths, site: Surroundings, rows: np.ndarray) -> tuple[str, Floats]:
    d, f = floats("distance_m", paths.distance_m)[rows], paths.frequency_hz
    if model == "inductive":
        return "Magnetic coupling", coupled_loss_db(d, f)
    if site.walked is not None:
        return "As walked", site.walked.loss_at(d)
    if model == "kept" and site.kept is not None:
        return f"As walked in {site.kept.name}", site.kept.loss_db(d, f)
    if model == "free_space":
        return "Free space", free_space_loss_db(d, f)
    if model == "log_distance":
        exponent = EXPONENTS[site.openness]
        law = LogDistanceLaw.from_free_space(frequency_hz=f, exponent=exponent)
        return f"Exponent {exponent:g}", law.loss_db(d)
    if model == "delta_bullington":
        all_db = np.broadcast_to(np.asarray(paths.diffraction_db, dtype=float), rows.shape)
        return "Free space and terrain", free_space_loss_db(d, f) + all_db[rows]
    if model in ("indoor", "multi_wall"):
        return _indoors(d, paths, site, rows, walls_drawn=model == "multi_wall")
    h1, h2 = (
        np.broadcast_to(np.maximum(h, LEAST_HEIGHT_M), rows.shape)[rows]
        for h in (paths.height1_m, paths.height2_m)
    )
    ground, polarisation = GROUNDS[site.ground], site.polarisation
    return "Two rays", two_ray_loss_db(h1, h2, d, f, ground=ground, polarisation=polarisation)


def _indoors(
    d: Floats, paths: Paths, site: Surroundings, rows: np.ndarray, *, walls_drawn: bool
) -> tuple[str, Floats]:
    floors_between = np.broadcast_to(floats("floors", paths.floors), rows.shape)[rows]
    f, near = paths.frequency_hz, np.maximum(d, LEAST_INDOORS_M)
    coefficient, crossed = indoor_figures(site.building, floors_between, f)
    if walls_drawn:
        return "Free space and floors", free_space_loss_db(near, f) + crossed
    loss = indoor_loss_db(near, f, coefficient=coefficient) + crossed
    return f"Indoors, {coefficient:.0f} dB a decade", loss


def covers_db(covers: Sequence[str], depth: Floats, paths: Paths) -> Floats:
    """Return what covers of the far ends cost (paths,), each with the depth of its wood [dB, m]."""
    found = np.zeros(len(covers))
    height = np.broadcast_to(np.maximum(paths.height2_m, LEAST_HEIGHT_M), found.shape)
    for cover in set(covers) - {""}:
        rows = np.array([one == cover for one in covers])
        found[rows] = cover_loss_db(
            cover,
            distance_m=paths.distance_m[rows],
            depth_m=depth[rows],
            height_m=height[rows],
            frequency_hz=paths.frequency_hz,
        )
    return found


def _walls(paths: Paths, site: Surroundings, count: int) -> Floats:
    """Return what walls cost [dB]; a near field goes through them."""
    each = np.broadcast_to(np.asarray(paths.walls_db, dtype=float), (count,))
    if paths.magnetic or not site.wall_factor:
        return np.zeros(count)
    found: Floats = site.wall_factor * each
    return found


def expected_share(in_hand_db: Floats, *, shadowing_db: float) -> Floats:
    """Return the share of frames heard at a random place with a typical level in hand [dB]."""
    share: Floats = ndtr(in_hand_db / np.hypot(shadowing_db, FRAME_SPREAD_DB))
    return share


@dataclass(frozen=True, slots=True, kw_only=True)
class StopPrediction:
    """A rig at a stop: median level with the band for 8 places of 10 [dBm], frames expected."""

    level_dbm: float
    low_dbm: float
    high_dbm: float
    expected_share: float
    in_hand_db: float


def predict_stops(link: Link, loss_db: Floats, *, shadowing_db: float) -> list[StopPrediction]:
    """Return what a rig should do at stops.

    Parameters
    ----------
    loss_db
        Shape (stops,): the median loss of each path [dB].
    """
    level = link.reference_dbm - loss_db
    half = EIGHT_OF_TEN * shadowing_db
    share = expected_share(level - link.threshold_dbm, shadowing_db=shadowing_db)
    return [
        StopPrediction(
            level_dbm=one,
            low_dbm=one - half,
            high_dbm=one + half,
            expected_share=expected,
            in_hand_db=one - link.threshold_dbm,
        )
        for one, expected in zip(level.tolist(), share.tolist(), strict=True)
    ]
