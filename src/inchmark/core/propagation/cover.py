"""What covers the far end of a path: a wood, clutter, a building; and the floors of one."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, positive, within
from inchmark.core.propagation.clutter import height_gain_loss_db, statistical_clutter_loss_db
from inchmark.core.propagation.indoors import building_entry_loss_db
from inchmark.core.propagation.woodland import woodland_loss_db

COVERS = ("", "woodland", "clutter", "traditional", "thermally_efficient")
STATISTICAL_FROM_HZ = 0.5e9  # P.2108-1, clause 3.2; below it the height gain of clause 3.1 is taken
CLUTTER_HEIGHT_M = 10.0  # suburban, from memory of P.2108-1, table 3
MODELS = {
    "woodland": "woodland",
    "clutter": "statistical_clutter",
    "traditional": "building_entry",
    "thermally_efficient": "building_entry",
}


class _Woodland(NamedTuple):
    """The most a wood costs [dB], and its cost a metre at first [dB/m]."""

    most_db: float
    per_metre_db: float


def woodland_figures(frequency_hz: float) -> _Woodland:
    """Return the figures of a mixed wood in leaf; both grow with frequency.

    From memory of ITU-R P.833: Am = 1.37 f^0.42 (f in MHz), and 0.2 dB/m at 1 GHz rising as f^0.8
    about its figure of specific attenuation.
    """
    mhz = float(positive("frequency_hz", frequency_hz)) / 1e6
    return _Woodland(most_db=1.37 * mhz**0.42, per_metre_db=0.2 * (mhz / 1000) ** 0.8)


def cover_model(cover: str, frequency_hz: float) -> str:
    """Return the name of the model that works out a cover, as `validity` knows it."""
    if cover == "clutter" and frequency_hz < STATISTICAL_FROM_HZ:
        return "height_gain"
    return MODELS[cover]


def cover_name(cover: str, depth_m: float) -> str:
    """Return what a cover is called beside its loss."""
    return {
        "": "",
        "woodland": f"{depth_m:g} m of woodland",
        "clutter": "Clutter around the far end",
    }.get(cover, "Into the building")


def cover_loss_db(
    cover: str,
    *,
    distance_m: ArrayLike,
    depth_m: ArrayLike,
    height_m: ArrayLike,
    frequency_hz: float,
) -> Floats:
    """Return the median loss [dB] that a cover of the far end adds.

    Parameters
    ----------
    cover
        One of `COVERS`.
    distance_m, depth_m, height_m
        Broadcast together: the path [m], the wood's depth [m], the antenna's height [m].

    Raises
    ------
    ValueError
        The cover is unknown.
    """
    if cover not in COVERS:
        raise ValueError(f"cover={cover!r} must be one of {', '.join(COVERS[1:])} or empty")
    d, depth, height = np.broadcast_arrays(distance_m, depth_m, height_m)
    if not cover:
        return np.zeros(d.shape)
    if cover == "woodland":
        figures = woodland_figures(frequency_hz)
        return woodland_loss_db(depth, most_db=figures.most_db, per_metre_db=figures.per_metre_db)
    if cover_model(cover, frequency_hz) == "height_gain":
        return height_gain_loss_db(
            height, frequency_hz, kind="Suburban", clutter_height_m=CLUTTER_HEIGHT_M
        )
    if cover == "clutter":
        return statistical_clutter_loss_db(d, frequency_hz, share=0.5)
    loss = building_entry_loss_db(frequency_hz, building=cover, share=0.5)
    return np.broadcast_to(loss, d.shape)


class _Indoors(NamedTuple):
    """Loss per tenfold distance [dB] by frequency [GHz], loss of the first and further floors."""

    coefficients: tuple[tuple[float, float], ...]
    first_floor_db: tuple[tuple[float, float], ...]
    further_floor_db: float


# from memory of ITU-R P.1238 (editions before -11), tables 2 and 3
INDOORS = {
    "residential": _Indoors(((1.8, 28), (2.4, 28), (5.2, 29)), ((1.8, 4), (2.4, 7)), 4.0),
    "office": _Indoors(
        ((0.9, 33), (1.25, 32), (1.9, 30), (2.4, 30), (5.2, 31)), ((0.9, 9), (1.9, 15)), 4.0
    ),
    "commercial": _Indoors(((0.9, 20), (1.25, 22), (5.2, 22)), ((0.9, 6), (1.9, 6)), 3.0),
}


def indoor_figures(building: str, floors: ArrayLike, frequency_hz: float) -> tuple[float, Floats]:
    """Return the loss per tenfold distance [dB] and the loss of floors between [dB].

    Between the frequencies of the tables the figures are joined by straight lines over lg f.

    Raises
    ------
    ValueError
        The building is unknown, or floors below 0.
    """
    if building not in INDOORS:
        raise ValueError(f"building={building!r} must be one of {', '.join(INDOORS)}")
    log = np.log10(float(positive("frequency_hz", frequency_hz)) / 1e9)
    table, count = INDOORS[building], within("floors", floors, 0, 200)
    coefficient = np.interp(log, *_columns(table.coefficients))
    first = np.interp(log, *_columns(table.first_floor_db))
    crossed = np.where(count > 0, first + table.further_floor_db * np.maximum(count - 1, 0), 0.0)
    return float(coefficient), crossed


def _columns(rows: tuple[tuple[float, float], ...]) -> tuple[list[float], list[float]]:
    return [float(np.log10(f)) for f, _ in rows], [db for _, db in rows]
