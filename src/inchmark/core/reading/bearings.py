"""Whether the site is the same in all directions: shadowing by sector, seen from the fixed end.

One-way analysis of the posterior means of S over sectors (Fisher), a finding only at p < 0.01: with
twelve stops p < 0.05 is false too often.
"""

from __future__ import annotations

import numpy as np
from scipy.special import fdtrc, stdtrit

from inchmark.core.geodesy import Place, geodesic
from inchmark.core.interval import Estimate
from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.result import Bearings, Sector

SECTORS = 4
LEAST_STOPS = 6


def bearings_of(analysis: Analysis) -> Bearings | None:
    """Return shadowing by sector; None without coordinates, or with too few stops in two sectors."""
    p = analysis.posterior
    centre = next((one.spot for one in analysis.site.receivers if one.spot), None)
    if p is None or centre is None:
        return None
    start = Place(lat_deg=centre[0], lon_deg=centre[1])
    means = np.median(p.shadow, axis=0)
    found: dict[int, dict[str, float]] = {}
    for place, mean in zip(p.data.places, means, strict=True):
        spot = getattr(analysis.stops.get(place.stop), "spot", None)
        if spot is None:
            continue
        azimuth = geodesic(start, Place(lat_deg=spot[0], lon_deg=spot[1])).azimuth_deg
        sector = int(((azimuth + 180 / SECTORS) % 360) // (360 / SECTORS))
        found.setdefault(sector, {})[place.stop] = float(mean)
    groups = {
        sector: np.array(list(own.values())) for sector, own in found.items() if len(own) >= 2
    }
    if len(groups) < 2 or sum(map(len, groups.values())) < LEAST_STOPS:
        return None
    return _analysed(groups)


def _analysed(groups: dict[int, np.ndarray]) -> Bearings:
    values = np.concatenate(list(groups.values()))
    within = sum(float(np.sum((one - one.mean()) ** 2)) for one in groups.values())
    between = sum(len(one) * float((one.mean() - values.mean()) ** 2) for one in groups.values())
    k, n = len(groups), len(values)
    ratio = (between / (k - 1)) / max(within / (n - k), 1e-12)
    spread = float(np.sqrt(within / (n - k)))
    quantile = float(stdtrit(n - k, 0.975))
    width = 360 / SECTORS
    sectors = []
    for sector, one in sorted(groups.items()):
        middle, reach = float(one.mean()), quantile * spread / np.sqrt(len(one))
        low = (sector * width - width / 2) % 360
        sectors.append(
            Sector(
                low_deg=low,
                high_deg=(low + width) % 360,
                stops=len(one),
                shadow_db=Estimate(middle, middle - reach, middle + reach),
            )
        )
    return Bearings(p=float(fdtrc(k - 1, n - k, ratio)), sectors=tuple(sectors))
