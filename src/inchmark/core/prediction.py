"""What a path should lose before anyone has walked it: a model, what covers it, and a spread."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from inchmark.core.checks import within
from inchmark.core.path_view import PathView
from inchmark.core.propagation.clutter import statistical_clutter_loss_db
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.propagation.indoors import building_entry_loss_db
from inchmark.core.propagation.log_distance import LogDistanceLaw
from inchmark.core.propagation.two_ray import GROUNDS, two_ray_loss_db
from inchmark.core.propagation.validity import outside
from inchmark.core.propagation.woodland import woodland_loss_db

MODELS = ("log_distance", "free_space", "two_ray", "terrain")
# path exponents from 1 m on, common practice for antennas near the ground
EXPONENTS = {"open": 2.7, "middling": 3.1, "cluttered": 3.6}
COVERS = ("", "woodland", "clutter", "traditional", "thermally_efficient")
# from memory of P.833's figures for leaves on near 900 MHz; both grow with frequency
WOODLAND_MOST_DB, WOODLAND_DB_PER_M = 25.0, 0.2
EIGHT_OF_TEN = 1.2816  # normal quantile of 0.9: the band holds 8 places of 10
FRAME_SPREAD_DB = 1.5  # from frame to frame at one place, about the edge's softness
LEAST_HEIGHT_M = 0.1


@dataclass(frozen=True, slots=True, kw_only=True)
class Surroundings:
    """How a site is predicted: model, class, ground, polarisation, spread between places [dB]."""

    model: str = "log_distance"
    openness: str = "middling"
    ground: str = "ground"
    polarisation: str = "vertical"
    shadowing_db: float = 6.0

    def __post_init__(self) -> None:
        """Refuse what is unknown."""
        for value, known in (
            (self.model, MODELS), (self.openness, EXPONENTS), (self.ground, GROUNDS)
        ):  # fmt: skip
            if value not in known:
                raise ValueError(f"{value!r} must be one of {', '.join(known)}")
        within("shadowing_db", self.shadowing_db, 0.1, 20)


@dataclass(frozen=True, slots=True, kw_only=True)
class Path:
    """A path: distance [m], heights above ground [m], what covers the far end, its side view."""

    distance_m: float
    height1_m: float
    height2_m: float
    frequency_hz: float
    cover: str = ""
    cover_m: float = 0.0
    view: PathView | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PathPrediction:
    """The median loss [dB], its parts by name [dB], and where the models do not hold."""

    loss_db: float
    parts: tuple[tuple[str, float], ...]
    warnings: tuple[str, ...]
    shadowing_db: float


def predict_path(path: Path, site: Surroundings) -> PathPrediction:
    """Return what a path should lose at a typical place."""
    parts, models = [_base(path, site)], [_base_model(path, site)]
    warnings = []
    if site.model == "terrain" and path.view is None:
        warnings.append("No terrain covers this path; two rays over flat ground are taken.")
    if path.cover:
        parts.append(_cover(path))
        models.append(_COVER_MODELS[path.cover])
    for model in models:
        warnings += outside(model, frequency_hz=path.frequency_hz, distance_m=path.distance_m)
    return PathPrediction(
        loss_db=sum(db for _, db in parts),
        parts=tuple(parts),
        warnings=tuple(warnings),
        shadowing_db=site.shadowing_db,
    )


def _base_model(path: Path, site: Surroundings) -> str:
    if site.model == "terrain":
        return "delta_bullington" if path.view else "two_ray"
    return site.model


def _base(path: Path, site: Surroundings) -> tuple[str, float]:
    model, d, f = _base_model(path, site), path.distance_m, path.frequency_hz
    if model == "free_space":
        return "Free space", float(free_space_loss_db(d, f))
    if model == "log_distance":
        exponent = EXPONENTS[site.openness]
        law = LogDistanceLaw.from_free_space(frequency_hz=f, exponent=exponent)
        return f"Exponent {exponent:g}", float(law.loss_db(d))
    if model == "delta_bullington" and path.view:
        loss = float(free_space_loss_db(d, f)) + path.view.diffraction_db
        return "Free space and terrain", loss
    heights = max(path.height1_m, LEAST_HEIGHT_M), max(path.height2_m, LEAST_HEIGHT_M)
    ground, polarisation = GROUNDS[site.ground], site.polarisation
    return "Two rays", float(
        two_ray_loss_db(*heights, d, f, ground=ground, polarisation=polarisation)
    )


_COVER_MODELS = {
    "woodland": "woodland",
    "clutter": "statistical_clutter",
    "traditional": "building_entry",
    "thermally_efficient": "building_entry",
}


def _cover(path: Path) -> tuple[str, float]:
    if path.cover == "woodland":
        loss = woodland_loss_db(
            path.cover_m, most_db=WOODLAND_MOST_DB, per_metre_db=WOODLAND_DB_PER_M
        )
        return f"{path.cover_m:g} m of woodland", float(loss)
    if path.cover == "clutter":
        loss = statistical_clutter_loss_db(path.distance_m, path.frequency_hz, share=0.5)
        return "Clutter around the far end", float(loss)
    loss = building_entry_loss_db(path.frequency_hz, building=path.cover, share=0.5)
    return "Into the building", float(loss)


@dataclass(frozen=True, slots=True, kw_only=True)
class StopPrediction:
    """A rig at a stop: median level with the band for 8 places of 10 [dBm], frames expected."""

    level_dbm: float
    low_dbm: float
    high_dbm: float
    expected_share: float
    in_hand_db: float


def predict_stop(lossless_dbm: float, threshold_dbm: float, path: PathPrediction) -> StopPrediction:
    """Return what a rig should do at a stop.

    Parameters
    ----------
    lossless_dbm
        Level at the receiver with no path between [dBm].
    threshold_dbm
        Level at which half of the frames are lost [dBm].
    """
    level = lossless_dbm - path.loss_db
    half = EIGHT_OF_TEN * path.shadowing_db
    spread = float(np.hypot(path.shadowing_db, FRAME_SPREAD_DB))
    return StopPrediction(
        level_dbm=level,
        low_dbm=level - half,
        high_dbm=level + half,
        expected_share=float(ndtr((level - threshold_dbm) / spread)),
        in_hand_db=level - threshold_dbm,
    )
