"""How far links go: distances at which a rule still holds, from the draws of a fit.

loss rule    at most `loss` of frames lost at `places` of places
in hand      the typical level lies so far above the threshold
exchange     question and answer both arrive, over one path with one shadowing
any, best    a frame is heard by any receiver, by the best one
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtri

from inchmark.core.checks import Floats, fraction
from inchmark.core.interval import Estimate
from inchmark.core.link_model.data import LinkKey
from inchmark.core.link_model.law import TERRAIN
from inchmark.core.link_model.posterior import Posterior, summarise
from inchmark.core.normal import ndtr

EXPONENT_FLOOR = 0.7  # a flatter draw would put the range beyond any meaning
PLACES_DRAWN, DRAWS_TAKEN, HALVINGS = 512, 250, 15
REACH_DB = 25.0  # legs together cost or gain no more against the deciding one
_GRID = np.linspace(-3, 4, 1401)  # lg of distance over the centre


def loss_range_draws(
    p: Posterior, margin_db: Floats, *, loss: float = 0.1, places: float = 0.9
) -> Floats | None:
    """Return lg of the range [m] of a margin (D,), for each draw; None where no distance holds.

    None where losses that have nothing to do with level are above `loss` already.
    """
    needed = kept_db(p, loss=loss, places=places)
    return None if needed is None else lg_distance(p, margin_db - needed)


def kept_db(p: Posterior, *, loss: float, places: float) -> Floats | None:
    """Return the dB above the threshold that the loss rule needs at a typical place (D,)."""
    keep = (1 - fraction("loss", loss)) / (1 - p.spreads.floor)
    if float(np.median(keep)) >= 1:
        return None
    found: Floats = p.spreads.frame_db * ndtri(np.minimum(keep, 1 - 1e-9))
    found += ndtri(fraction("places", places)) * p.spreads.place_db
    return found


def loss_range_m(p: Posterior, link: LinkKey, **rule: float) -> Estimate | None:
    """Return the farthest distance [m] that keeps the loss rule."""
    draws = loss_range_draws(p, p.margin(link), **rule)
    return None if draws is None else as_distance(draws)


def in_hand_range_m(p: Posterior, link: LinkKey, *, in_hand_db: float = 10.0) -> Estimate:
    """Return the distance [m] where the typical level is `in_hand_db` above threshold."""
    return as_distance(lg_distance(p, p.margin(link) - in_hand_db))


def kept_for_places_db(p: Posterior, *, loss: float = 0.1, places: float = 0.9) -> Estimate:
    """Return the dB above the threshold that the loss rule needs at a typical place."""
    keep = np.minimum((1 - loss) / (1 - p.spreads.floor), 1 - 1e-9)
    needed = p.spreads.frame_db * ndtri(keep) + ndtri(places) * p.spreads.place_db
    return summarise(needed)


def in_hand_db(p: Posterior, margin_db: Floats, distance_m: float) -> Estimate:
    """Return what a margin (D,) leaves above the threshold [dB] at a distance [m]."""
    return summarise(margin_db - p.loss_db(distance_m))


def delivery(p: Posterior, margin_db: Floats, distance_m: float) -> Estimate:
    """Return the expected share of frames heard at a random place at a distance [m]."""
    spread = np.sqrt(p.spreads.frame_db**2 + p.spreads.place_db**2)
    over = (margin_db - p.loss_db(distance_m)) / spread
    return summarise((1 - p.spreads.floor) * ndtr(over))


def worse_of(draws: Sequence[Floats | None]) -> Floats | None:
    """Return the worse of several ranges in each draw; None where one of them has none."""
    known = [one for one in draws if one is not None]
    if not known or len(known) < len(draws):
        return None
    found: Floats = np.min(known, axis=0)
    return found


def exchange_range_draws(
    p: Posterior, margins_db: Sequence[Floats], *, loss: float = 0.1, places: float = 0.9
) -> Floats | None:
    """Return lg of the farthest distance [m] where legs with margins (D,) all arrive together.

    All legs go over one path: they share shadowing and the shared part of the remainder. None
    where (1 - eps)^2 is below what must arrive.
    """
    if float(np.median((1 - p.spreads.floor) ** 2)) <= 1 - loss:
        return None
    margins = np.stack(margins_db, axis=1)
    return _solve(p, margins, [0] * len(margins_db), loss=loss, places=places, both=True)


def any_receiver_range_draws(
    p: Posterior,
    links: Sequence[LinkKey],
    margins_db: Sequence[Floats],
    *,
    loss: float = 0.1,
    places: float = 0.9,
) -> Floats | None:
    """Return lg of the farthest distance [m] where some receiver hears: 1 - prod(1 - P).

    Distances are those to each receiver, taken as equal; shadowing is shared within a place of
    receivers.
    """
    seen = {p.data.links[i]: k for i, k in zip(p.data.link, p.data.place, strict=True)}
    spots = [p.data.places[seen[link]].receiver_place for link in links]
    kinds = [sorted(set(spots)).index(one) for one in spots]
    margins = np.stack(margins_db, axis=1)
    return _solve(p, margins, kinds, loss=loss, places=places, both=False)


def _solve(
    p: Posterior,
    margins: Floats,
    shadow_of: Sequence[int],
    *,
    loss: float,
    places: float,
    both: bool,
) -> Floats | None:
    """Return lg of the farthest distance for legs with margins (D, legs) over drawn places.

    What the legs together cost against the deciding one alone is found on some of the draws, both
    over the same drawn places, so that these cancel; the other draws take it from those whose legs
    are as far apart.
    """
    alone = kept_db(p, loss=loss, places=places)
    if alone is None:
        return None
    budgets = np.sort(margins - alone[:, None], axis=1)
    deciding = budgets[:, 0] if both else budgets[:, -1]
    gap = budgets[:, 1] - budgets[:, 0] if both else budgets[:, -1] - budgets[:, -2]
    took = np.linspace(0, len(margins) - 1, min(DRAWS_TAKEN, len(margins))).astype(int)
    drawn = _DrawnPlaces(p, took, margins.shape[1], shadow_of)
    first = np.argmin(margins[took], axis=1) if both else np.argmax(margins[took], axis=1)
    together = drawn.last_budget(margins[took], deciding[took], loss, places, both=both)
    single = drawn.last_budget(margins[took], deciding[took], loss, places, both=both, only=first)
    order = np.argsort(gap[took])
    cost = np.interp(gap, gap[took][order], (together - single)[order])
    return lg_distance(p, deciding + cost)


class _DrawnPlaces:
    """Shadowing and remainders of legs at drawn places, for some of the draws."""

    def __init__(
        self, p: Posterior, took: NDArray[np.int64], legs: int, shadow_of: Sequence[int]
    ) -> None:
        s, kappa, spots = p.spreads, p.remainder_share[took], max(shadow_of) + 1
        drawn = _spread_out(PLACES_DRAWN, spots + 1 + legs)
        sigma_e2, sigma_t2 = s.sigma_e[took] ** 2, s.sigma_t[took] ** 2
        self.spread = (
            s.sigma_s[took, None, None] * drawn[:, list(shadow_of)]
            + np.sqrt(kappa * sigma_e2)[:, None, None] * drawn[:, spots : spots + 1]
            + np.sqrt((1 - kappa) * sigma_e2 + sigma_t2)[:, None, None] * drawn[:, spots + 1 :]
        )
        self.frame, self.floor = s.frame_db[took, None, None], s.floor[took, None, None]

    def last_budget(
        self,
        margins: Floats,
        near: Floats,
        loss: float,
        places: float,
        *,
        both: bool,
        only: NDArray[np.int64] | None = None,
    ) -> Floats:
        """Return the path loss [dB] at which the rule just holds, by halving around `near`."""
        level = margins[:, None, :] + self.spread
        if only is not None:
            level = np.take_along_axis(level, only[:, None, None], axis=2)
        low, high = near - REACH_DB, near + REACH_DB
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            share = (1 - self.floor) * ndtr((level - middle[:, None, None]) / self.frame)
            arrives = np.prod(share, axis=2) if both else 1 - np.prod(1 - share, axis=2)
            fine = np.mean(arrives >= 1 - loss, axis=1) >= places
            low, high = np.where(fine, middle, low), np.where(fine, high, middle)
        return low


def _spread_out(count: int, size: int) -> Floats:
    """Return standard normals (count, size), each column spread evenly, the columns shuffled."""
    random = np.random.default_rng(7)
    even = ndtri((np.arange(count) + 0.5) / count)
    found: Floats = np.stack([random.permutation(even) for _ in range(size)], axis=1)
    return found


def lg_distance(p: Posterior, budget_db: Floats) -> Floats:
    """Return lg of the last distance [m] at which the path still loses no more than a budget.

    Over terrain and through walls it is the distance up to which it does: behind a hollow it may do
    so again, but a node in the hollow would not be served.
    """
    slopes, law, centre = p.slopes, p.data.law, p.data.centre_m
    if law.plain:
        found: Floats = np.log10(centre) + budget_db / (
            10 * np.maximum(slopes[:, 0], EXPONENT_FLOOR)
        )
        return found
    d = centre * 10**_GRID
    basis = law.basis(d, centre).T
    bare = len(basis) - law.walled  # of slopes without that of walls
    loss = slopes[:, :bare] @ basis[:bare] + law.known_db(d, centre)
    if law.kind == TERRAIN:
        loss = np.maximum.accumulate(loss, axis=1)
    else:  # from the far end inwards: reflections from flat ground waver, and are no hollows
        loss = np.minimum.accumulate(loss[:, ::-1], axis=1)[:, ::-1]
    if law.walled:
        loss = np.maximum.accumulate(loss + slopes[:, bare:] @ basis[bare:], axis=1)
    below = loss <= budget_db[:, None]
    last = np.clip(below.sum(axis=1) - 1, 0, len(d) - 2)
    rows_ = np.arange(len(loss))
    rise = np.maximum(loss[rows_, last + 1] - loss[rows_, last], 1e-9)
    share = np.clip((budget_db - loss[rows_, last]) / rise, 0, 1)
    found = np.log10(centre) + _GRID[last] + share * (_GRID[1] - _GRID[0])
    return found


def as_distance(lg_m: Floats) -> Estimate:
    """Return median and limits of draws of lg of a distance, in metres."""
    found = summarise(np.clip(lg_m, -300, 300))
    return Estimate(*(float(10.0**x) for x in (found.estimate, found.low, found.high)))
