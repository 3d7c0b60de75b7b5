"""Walls of a site as the core knows them, and what they cost on paths to places."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.propagation.walls import Wall, Walls, crossed_words
from inchmark.plan.adapters.places import FixedEnd, Target
from inchmark.plan.models import Site, SiteWall


def wall_of(row: SiteWall) -> Wall:
    """Return a kept wall as the core knows it."""
    return Wall(
        points=tuple((float(lat), float(lon)) for lat, lon in row.points),
        kind=row.kind,
        thickness_m=row.thickness_m,
        loss_db=row.loss_db,
        name=row.name,
    )


def walls_of(site: Site | None) -> Walls | None:
    """Return the walls drawn on a site, None without any."""
    rows = site.walls_drawn if site else []
    return Walls(walls=tuple(wall_of(one) for one in rows)) if rows else None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class OnTheWay:
    """The walls on the way from a fixed end to targets; NaN where an end has no coordinates."""

    walls: Walls
    fixed: FixedEnd
    targets: Sequence[Target]

    def losses_db(self, frequency_hz: float) -> Floats:
        """Return what they cost on each way (targets,) [dB]."""
        found = np.full(len(self.targets), np.nan)
        at, lat, lon = self._placed()
        if self.fixed.place is not None and at:
            found[at] = self.walls.losses_db(self.fixed.place, lat, lon, frequency_hz)
        return found

    def words(self) -> list[str]:
        """Return which are crossed on each way."""
        found = [""] * len(self.targets)
        at, lat, lon = self._placed()
        if self.fixed.place is not None and at:
            counts = self.walls.crossed(self.fixed.place, lat, lon).tolist()
            for i, crossed in zip(at, counts, strict=True):
                found[i] = crossed_words(self.walls, crossed)
        return found

    def _placed(self) -> tuple[list[int], Floats, Floats]:
        at = [i for i, one in enumerate(self.targets) if one.lat is not None]
        spots = np.array([(self.targets[i].lat, self.targets[i].lon) for i in at], dtype=float)
        lat, lon = spots.reshape(-1, 2).T
        return at, lat, lon
