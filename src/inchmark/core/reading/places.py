"""What a walk says of places nobody stood at: level, share of frames, whether the rule is met.

Draws of the fit are carried to each place: slope, rig, threshold and spreads as they were drawn, the
shadowing given the shadowing of the stops near it, and a remainder of its own. All places of a draw
belong together, so that how many are served has limits of its own. A place where the rig stood uses
its own frames.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.geodesy import Place, geodesic
from inchmark.core.interval import Estimate
from inchmark.core.link_model import ranges as fitted
from inchmark.core.link_model.data import LinkKey
from inchmark.core.link_model.posterior import Posterior, summarise
from inchmark.core.normal import ndtr
from inchmark.core.reading.analysis import SEED, Analysis
from inchmark.core.reading.expected import NeededPlace, PlaceReading, Served
from inchmark.core.reading.links import metres_from
from inchmark.core.reading.place_draws import PlaceDraws, counted
from inchmark.core.reading.place_paths import outside, own_way_db, visit_at
from inchmark.core.reading.ranges import Deciding

JITTER = 1e-9
NEAREST_M = 0.1
ANYWHERE_M = 1e12  # from every stop: what was walked says nothing of its shadowing


def served_places(
    analysis: Analysis,
    by: Mapping[str, Deciding],
    places: Sequence[NeededPlace],
    fixed: tuple[float, float] | None,
) -> list[Served]:
    """Return each rig's places, by the link it is judged by."""
    reasons = [outside(analysis, one, fixed) for one in places]
    return [_of_rig(analysis, rig, one.link, places, reasons) for rig, one in by.items()]


def _of_rig(
    analysis: Analysis,
    rig: str,
    link: LinkKey,
    places: Sequence[NeededPlace],
    reasons: Sequence[tuple[str, ...]],
) -> Served:
    p, told = analysis.posterior, analysis.threshold_known(link) and analysis.slope_known()
    if p is None or not told or not places:
        bare = tuple(
            PlaceReading(place=one.name, distance_m=one.distance_m, extrapolated=why)
            for one, why in zip(places, reasons, strict=True)
        )
        return Served(rig=rig, places=bare, count=None)
    drawn = _Drawn.of(analysis, p, link, places)
    return Served(
        rig=rig,
        places=tuple(drawn.reading(i, reasons[i]) for i in range(len(places))),
        count=counted(drawn.meets),
        drawn=drawn.small.kept(),
    )


@dataclass(frozen=True, kw_only=True, eq=False)
class _Drawn:
    """Draws (D, places) of a link's level over its threshold, and what follows from them."""

    analysis: Analysis
    posterior: Posterior
    link: LinkKey
    places: Sequence[NeededPlace]
    over: Floats
    typical: Floats  # without shadowing and remainder of the place
    own: Sequence[int | None]  # the visit whose frames a place has, where the rig stood there

    @classmethod
    def of(
        cls, analysis: Analysis, p: Posterior, link: LinkKey, places: Sequence[NeededPlace]
    ) -> _Drawn:
        random, p = np.random.default_rng(SEED), p.of_rig(link.rig)
        margin = analysis.margin_db(p, link)
        away = [_to_receiver_m(analysis, link, one) for one in places]
        typical = np.stack(
            [
                margin - p.loss_db(metres) - own_way_db(analysis, p, link, metres, place)
                for metres, place in zip(away, places, strict=True)
            ],
            axis=1,
        )
        over = typical + _shadows(analysis, p, link, places, random)
        own = np.sqrt(p.spreads.sigma_e**2 + p.spreads.sigma_t**2)
        over = over + own[:, None] * random.standard_normal(over.shape)
        visits = [visit_at(analysis, link, one) for one in places]
        for i, visit in enumerate(visits):
            found = analysis.in_hand_db(visit) if visit is not None else None
            if found is None:
                visits[i] = None
            else:
                sd = (found.high - found.low) / 3.92
                over[:, i] = found.estimate + sd * random.standard_normal(len(over))
        return cls(
            analysis=analysis, posterior=p, link=link, places=places,
            over=over, typical=typical, own=visits,
        )  # fmt: skip

    @cached_property
    def small(self) -> PlaceDraws:
        """Return what is kept of the draws."""
        p = self.posterior
        return PlaceDraws(
            over=self.over,
            typical=self.typical,
            exponent=p.exponent,
            place_db=p.spreads.place_db,
            frame_db=p.spreads.frame_db,
            floor=p.spreads.floor,
            walls=p.wall_factor,
            threshold=p.threshold[:, p.index(self.link)] + self.analysis.noise_shift_db(self.link),
        )

    @cached_property
    def shares(self) -> Floats:
        """Return the share of frames heard in each draw."""
        return self.small.shares()

    @cached_property
    def meets(self) -> Floats:
        """Return whether the loss rule holds in each draw."""
        found: Floats = (self.shares >= 1 - self.analysis.rules.loss).astype(np.float64)
        return found

    def reading(self, i: int, why: tuple[str, ...]) -> PlaceReading:
        one, visit = self.places[i], self.own[i]
        return PlaceReading(
            place=one.name,
            distance_m=one.distance_m,
            level_dbm=self._level(i),
            in_hand_db=summarise(self.over[:, i]),
            share=summarise(self.shares[:, i]),
            meets=self._probability(i),
            measured_at=self.analysis.rows[visit].stop if visit is not None else "",
            extrapolated=why if visit is None else (),
        )

    def _level(self, i: int) -> Estimate | None:
        """Return the level [dBm]: of the place's own frames, else as drawn."""
        visit, p = self.own[i], self.posterior
        if visit is not None:
            return self.analysis.level_of(visit)
        if not self.analysis.has_levels:
            return None
        threshold = p.threshold[:, p.index(self.link)] + self.analysis.noise_shift_db(self.link)
        return summarise(self.over[:, i] + threshold)

    def _probability(self, i: int) -> Estimate:
        """Return how likely the rule is met, with what the doubt about the site makes of it."""
        met = float(self.meets[:, i].mean())
        if self.own[i] is not None:
            return Estimate(met, met, met)
        p, rules = self.posterior, self.analysis.rules
        needed = fitted.kept_db(p, loss=rules.loss, places=0.5)  # of frames alone
        if needed is None:
            return Estimate(met, met, met)
        chances = ndtr((self.typical[:, i] - needed) / p.spreads.place_db)
        low, high = np.quantile(chances, (0.025, 0.975))
        return Estimate(met, float(min(low, met)), float(max(high, met)))


def _to_receiver_m(analysis: Analysis, link: LinkKey, place: NeededPlace) -> float:
    """Return how far a place lies from a link's receiver [m]; from the fixed end where that is not known."""
    ends = {one.name: one for one in analysis.site.receivers}
    there = ends.get(link.receiver)
    main = there is None or there is analysis.site.receivers[0]
    if main or there is None or there.spot is None or place.spot is None:
        return place.distance_m
    start = Place(lat_deg=there.spot[0], lon_deg=there.spot[1])
    end = Place(lat_deg=place.spot[0], lon_deg=place.spot[1])
    return max(geodesic(start, end).distance_m, NEAREST_M)


def _shadows(
    analysis: Analysis,
    p: Posterior,
    link: LinkKey,
    places: Sequence[NeededPlace],
    random: np.random.Generator,
) -> Floats:
    """Return draws (D, places) of the shadowing at places, given that of the stops walked to."""
    seen, at, here = _where(analysis, p, link, places)
    sigma = p.spreads.sigma_s
    found = np.empty((len(sigma), len(places)))
    for length in np.unique(p.correlation_m):
        rows = p.correlation_m == length
        near, among, own = (_alike(*pair, length) for pair in ((at, at), (here, at), (here, here)))
        gain = np.linalg.solve(near + JITTER * np.eye(len(at)), among.T).T
        left = own - gain @ among.T
        root = np.linalg.cholesky(left + 1e-6 * np.eye(len(here)))
        noise = random.standard_normal((int(rows.sum()), len(here))) @ root.T
        found[rows] = p.shadow[rows][:, seen] @ gain.T + sigma[rows, None] * noise
    return found


def _where(
    analysis: Analysis, p: Posterior, link: LinkKey, places: Sequence[NeededPlace]
) -> tuple[list[int], Floats, Floats]:
    """Return the stops' columns towards the link's receiver, their points and those of the places [m].

    Points on the plane where every stop has coordinates, else on a line by distance.
    """
    pairs = zip(p.data.link, p.data.place, strict=True)
    ends = {p.data.places[k].receiver_place for i, k in pairs if p.data.links[i] == link}
    seen = [k for k, one in enumerate(p.data.places) if one.receiver_place in ends]
    stops = [p.data.places[k] for k in seen]
    origin = next((one.spot for one in analysis.stops.values() if one.spot), None)
    spots = [one.spot for one in places if one.spot is not None]
    if origin is not None and len(spots) == len(places) and all(one.spot for one in stops):
        at = np.array([one.spot for one in stops], dtype=np.float64)
        here = np.array([metres_from(spot, origin) for spot in spots], dtype=np.float64)
        return seen, at, here
    at = np.array([[one.distance_m] for one in stops])
    return seen, at, np.array([[one.distance_m if one.spot else ANYWHERE_M] for one in places])


def _alike(first: Floats, second: Floats, length_m: float) -> Floats:
    apart = np.sqrt(np.sum((first[:, None] - second[None, :]) ** 2, axis=-1))
    if length_m <= 0:
        return np.asarray(apart < 1e-6, dtype=np.float64)
    return np.asarray(np.exp(-apart / length_m), dtype=np.float64)
