"""Where the two ends were at any time, from tracks: how far apart, how sure, and how fast."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.gathering.timeline import TRACK_AGE_S, Stay
from inchmark.core.geodesy import Place, distances_m

# what a satellite receiver of a phone or a module is off under open sky, one standard deviation of
# each point; from memory, order of size. Errors drift over minutes, so that a mean has them too.
FIX_SD_M = 2.5
# by the quality that GGA sentences of NMEA 0183 tell (numbers and sizes from memory): corrected,
# carrier phase fixed and floating, dead reckoning, typed by hand
SD_BY_QUALITY_M = {2: 1.5, 4: 0.05, 5: 0.5, 6: 10.0, 7: 10.0}
FEW_SATELLITES, FEW_FACTOR = 4, 3.0  # fewer give no fix in height, and a doubtful one in place
OLD_CORRECTIONS_S = 30.0  # corrections older than that are worth none (common practice)
UNTOLD = float("nan")
DEVIATIONS = 2.0  # a plus or minus is two standard deviations, as a written one is taken


class Point(NamedTuple):
    """A point of a track: time [s since 1970], latitude and longitude [degrees], dilution (HDOP).

    Satellites, the quality of GGA and the age of its corrections [s] are NaN where nobody tells.
    """

    time_s: float
    lat: float
    lon: float
    hdop: float = 1.0
    satellites: float = UNTOLD
    quality: float = UNTOLD
    age_s: float = UNTOLD


def point_of(time_s: float | None, lat: float, lon: float, *quality: float | None) -> Point:
    """Return a point; what is None of HDOP, satellites, quality and age is not told."""
    hdop, *rest = quality or (None,)
    told = [UNTOLD if one is None else float(one) for one in rest]
    return Point(time_s or 0.0, lat, lon, hdop or 1.0, *told)


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredPlace:
    """A stop as tracks have it: distance with its plus or minus [m], middle [degrees], points in it.

    `satellites` and `hdop` are medians, None where nobody tells.
    """

    stop: str
    distance_m: float
    plus_minus_m: float
    lat: float
    lon: float
    points: int
    satellites: float | None = None
    hdop: float | None = None


class Way:
    """The carried end's track against a fixed end that stands or moves too."""

    def __init__(self, carried: Sequence[Point], fixed: Place | Sequence[Point]) -> None:
        """Take tracks in any order of time.

        Raises
        ------
        ValueError
            A track has fewer than two points.
        """
        table = _table(carried)
        self.times, self.lat, self.lon = table[:, 0], table[:, 1], table[:, 2]
        self.hdop, self.satellites, self.fix_sd_m = table[:, 3], table[:, 4], _sd_m(table)
        self.metres = self._apart(fixed)

    def _apart(self, fixed: Place | Sequence[Point]) -> Floats:
        if isinstance(fixed, Place):
            return distances_m(fixed, self.lat, self.lon)
        times, lat, lon = _table(fixed)[:, :3].T
        at_lat = np.interp(self.times, times, lat, left=np.nan, right=np.nan)
        at_lon = np.interp(self.times, times, lon, left=np.nan, right=np.nan)
        found = np.full(self.times.size, np.nan)
        for i in np.flatnonzero(np.isfinite(at_lat)):
            here = Place(lat_deg=float(at_lat[i]), lon_deg=float(at_lon[i]))
            found[i] = distances_m(here, self.lat[i : i + 1], self.lon[i : i + 1])[0]
        return found

    def metres_at(self, time_s: Floats) -> Floats:
        """Return how far apart the ends were [m], shape (times,); NaN far from any point."""
        return self._near(time_s, np.interp(time_s, self.times, self.metres))

    def place_at(self, time_s: Floats) -> tuple[Floats, Floats]:
        """Return latitudes and longitudes [degrees] of the carried end, each of shape (times,)."""
        return (
            self._near(time_s, np.interp(time_s, self.times, self.lat)),
            self._near(time_s, np.interp(time_s, self.times, self.lon)),
        )

    def speed_at(self, time_s: Floats) -> Floats:
        """Return how fast the distance changed [m/s], shape (times,)."""
        step = 5.0
        change = self.metres_at(time_s + step) - self.metres_at(time_s - step)
        return np.nan_to_num(np.abs(change)) / (2 * step)

    def _near(self, time_s: Floats, values: Floats) -> Floats:
        after = np.clip(np.searchsorted(self.times, time_s), 1, self.times.size - 1)
        nearest = np.minimum(
            np.abs(self.times[after] - time_s), np.abs(self.times[after - 1] - time_s)
        )
        return np.where(nearest <= TRACK_AGE_S, values, np.nan)

    def places(self, stays: Sequence[Stay]) -> list[MeasuredPlace]:
        """Return the stops of stays as the track has them, in the order first stood at.

        A stop stood at several times takes all its points; one without a point is left out.
        """
        inside: dict[str, list[int]] = {}
        for stay in stays:
            within = (self.times >= stay.from_s) & (self.times < stay.to_s)
            inside.setdefault(stay.stop, []).extend(np.flatnonzero(within).tolist())
        found = []
        for stop, rows in inside.items():
            known = [row for row in sorted(set(rows)) if np.isfinite(self.metres[row])]
            if known:
                found.append(self._place(stop, np.array(known)))
        return found

    def _place(self, stop: str, rows: np.ndarray) -> MeasuredPlace:
        metres = self.metres[rows]
        spread = float(np.std(metres, ddof=1)) if rows.size > 1 else 0.0
        return MeasuredPlace(
            stop=stop,
            distance_m=float(np.median(metres)),
            plus_minus_m=DEVIATIONS * max(spread, float(np.median(self.fix_sd_m[rows]))),
            lat=float(np.median(self.lat[rows])),
            lon=float(np.median(self.lon[rows])),
            points=int(rows.size),
            satellites=_median(self.satellites[rows]),
            hdop=_median(self.hdop[rows]),
        )


def _median(values: Floats) -> float | None:
    known = values[np.isfinite(values)]
    return float(np.median(known)) if known.size else None


def _table(points: Sequence[Point]) -> Floats:
    """Return points in order of time, shape (times, 7); of one moment the word of the more doubtful counts."""
    if len(points) < 2:
        raise ValueError("A track needs two points or more.")
    table = np.array(points, dtype=np.float64)
    table = table[np.lexsort((-_sd_m(table), table[:, 0]))]
    _, first = np.unique(table[:, 0], return_index=True)
    return table[first]


def _sd_m(table: Floats) -> Floats:
    """Return the standard deviation of each point [m], by what its receiver says of it."""
    hdop, satellites, quality, age = table[:, 3:7].T
    sd = np.full(hdop.shape, FIX_SD_M)
    for kind, metres in SD_BY_QUALITY_M.items():
        sd[quality == kind] = metres
    old = (age > OLD_CORRECTIONS_S) & (sd < FIX_SD_M)
    sd[old] = FIX_SD_M
    sd[satellites < FEW_SATELLITES] *= FEW_FACTOR
    return np.asarray(sd * np.maximum(hdop, 1.0))
