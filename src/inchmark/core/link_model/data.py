"""What the fit is fed: one row per visit, as arrays, and what was known before.

What is fitted is a link: a rig, heard in one direction, by one receiver. Links share what they
truly have in common: the path and the place, the rig, the receiver, and the threshold where the
same unit listens on the same setting.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats
from inchmark.core.link_model.law import ONE_SLOPE, PathLaw
from inchmark.core.reception.visit import VisitSummary

OWN_FLOOR_SHARE = 0.85  # before anything is known of interference
BINS_ABOVE_LOWEST_DB = 22.0  # further up ln Phi is 0 to double precision for any softness met

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, order=True)
class LinkKey:
    """What is fitted: a rig, the direction its frames went, the receiver that heard them."""

    rig: str
    direction: str = ""
    receiver: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkPrior:
    """What is known of a link before the walk; no sensitivity means the walk alone must tell.

    `module_type`, `setting` and `unit` name what receives. Links that agree in all three have one
    threshold; without a unit's name each has its own. `expected_db` is how much stronger this
    direction should arrive than the other, from powers and feeds.
    """

    module_type: str = ""
    setting: str = ""
    unit: str = ""
    sensitivity_dbm: float | None = None
    conducted: bool = False  # measured on the bench with this unit, not read in a datasheet
    pair: bool = False  # replies alone: the threshold of both ends together
    expected_db: float = 0.0
    expected_dbm: float | None = None  # level at the centre distance, for counts without levels


@dataclass(frozen=True, slots=True, kw_only=True)
class FitVisit:
    """One visit with its place, ready to be fitted.

    `receiver_place` is one for receivers side by side; `spot` and `receiver_spot` are metres east
    and north from a common point; `distance_sd_m` is how far off the distance may be.
    """

    link: LinkKey
    stop: str
    distance_m: float
    condition: str
    summary: VisitSummary
    receiver_place: str = ""
    spot: tuple[float, float] | None = None
    receiver_spot: tuple[float, float] | None = None
    distance_sd_m: float = 0.0


@dataclass(frozen=True, slots=True)
class Place:
    """A stop as one place of receivers sees it."""

    stop: str
    receiver_place: str
    distance_m: float
    spot: tuple[float, float] | None = None
    receiver_spot: tuple[float, float] | None = None
    distance_sd_m: float = 0.0


@dataclass(frozen=True, slots=True)
class Threshold:
    """A threshold of its own: what is known of it, and which links hear by it."""

    prior: LinkPrior
    links: tuple[int, ...]


@dataclass(frozen=True, kw_only=True)
class FitData:
    """Arrays over visits (V,), with the names their indices stand for."""

    links: tuple[LinkKey, ...]
    priors: tuple[LinkPrior, ...]  # of links
    thresholds: tuple[Threshold, ...]
    places: tuple[Place, ...]
    first_receiver: Mapping[str, str]  # by direction: the one others are counted from
    conditions: tuple[str, ...]  # the reference condition first
    penalties: tuple[tuple[str, str], ...]  # (rig, condition) walked, the reference left out
    law: PathLaw
    centre_m: float
    link: Ints
    place: Ints
    penalty: Ints  # -1 in the reference condition
    group: Ints  # visits of one rig, place and condition, whatever the direction and receiver
    lost: Floats
    heard_unknown: Floats  # heard, level not logged
    exact: Floats  # heard with a level below the clip
    exact_mean: Floats
    exact_squares: Floats
    clipped: Floats
    bin_level: Floats  # (V, bins)
    bin_count: Floats  # (V, bins), 0 where padded
    noise_shift: Floats
    data_level_dbm: float | None  # None where no frame bears a level
    lowest_heard_dbm: Floats  # (L,), NaN for a link never heard
    clip_dbm: float | None = None
    step_db: float = 1.0
    reference_noise_dbm: float | None = field(default=None)
    threshold_doubt: float = 1.0  # factor on what thresholds may be off by
    own_floor_share: float = OWN_FLOOR_SHARE  # of visits that lose no more than the study's floor

    @property
    def distance_m(self) -> Floats:
        """Return the distance of each visit [m]."""
        return np.array([one.distance_m for one in self.places])[self.place]

    @cached_property
    def basis(self) -> Floats:
        """Return what each slope of the path law is multiplied with at each visit, (V, K)."""
        pairs = zip(self.link, self.place, strict=True)
        ways = [
            (self.links[i].rig, self.places[k].receiver_place, self.places[k].stop)
            for i, k in pairs
        ]
        return self.law.basis_at_stops(ways, self.distance_m, self.centre_m)

    @cached_property
    def known_loss_db(self) -> Floats:
        """Return the loss known beforehand at each visit, about the centre distance [dB]."""
        # a stop's own path is that to the first place of receivers
        first = self.places[0].receiver_place if self.places else ""
        places = [self.places[i] for i in self.place]
        stops = [one.stop if one.receiver_place == first else "" for one in places]
        return self.law.known_at_stops_db(stops, self.distance_m, self.centre_m)

    @cached_property
    def threshold_of(self) -> Ints:
        """Return the index of each link's threshold."""
        found = np.zeros(len(self.links), dtype=np.int64)
        for i, one in enumerate(self.thresholds):
            found[list(one.links)] = i
        return found

    @cached_property
    def lossy(self) -> NDArray[np.bool_]:
        """Tell which visits lost a frame."""
        return self.lost > 0

    @cached_property
    def bins_near(self) -> tuple[Floats, Floats, Ints, Ints, Ints]:
        """Return counts and levels (N,) near a threshold in order of visits, and whose they are.

        The visit of each, where each visit's begin, and the visits that have any.
        """
        visit, place = np.nonzero(self.bin_count > 0)
        starts = np.flatnonzero(np.diff(visit, prepend=-1))
        count, level = self.bin_count[visit, place], self.bin_level[visit, place]
        return count, level, visit, starts, visit[starts]

    @property
    def groups(self) -> int:
        """Return how many rig-by-place remainders directions or receivers share."""
        return int(self.group.max()) + 1 if len(self.group) else 0

    @cached_property
    def shares_groups(self) -> bool:
        """Tell whether some remainder is seen by two visits of different links."""
        pairs = {(int(g), int(link)) for g, link in zip(self.group, self.link, strict=True)}
        return len(pairs) > len({g for g, _ in pairs})

    @cached_property
    def several_places(self) -> bool:
        """Tell whether stops were heard from several places of receivers."""
        return len({one.receiver_place for one in self.places}) > 1

    @cached_property
    def penalties_differ(self) -> bool:
        """Tell whether some condition was walked with two rigs or more."""
        conditions = [condition for _, condition in self.penalties]
        return len(set(conditions)) < len(conditions)


def build_fit_data(
    visits: Sequence[FitVisit],
    priors: Mapping[LinkKey, LinkPrior],
    *,
    clip_dbm: float | None = None,
    step_db: float = 1.0,
    reference_noise_dbm: float | None = None,
    reference_condition: str | None = None,
    receivers: Sequence[str] = (),
    law: PathLaw = ONE_SLOPE,
    threshold_doubt: float = 1.0,
) -> FitData:
    """Return the arrays of a fit.

    Parameters
    ----------
    visits
        At least one, with frames sent.
    priors
        By link; a link without an entry has no sensitivity.
    clip_dbm
        Reading at and above which a level only says "at least this" [dBm].
    step_db
        Rounding step of the readings [dB].
    reference_noise_dbm
        Noise at which thresholds are stated [dBm]; the median of the visits if None.
    reference_condition
        The condition penalties are counted from; found out if None.
    receivers
        In the order their owner names them: the first is what the others are counted from.
    """
    links = tuple(sorted({v.link for v in visits}))
    known = tuple(priors.get(link, LinkPrior()) for link in links)
    places = _places(visits)
    at = {(one.stop, one.receiver_place): i for i, one in enumerate(places)}
    conditions = reference_first([v.condition for v in visits], reference_condition)
    penalties = tuple(
        sorted({(v.link.rig, v.condition) for v in visits if v.condition != conditions[0]})
    )
    split = [_split_at_clip(v.summary, clip_dbm) for v in visits]
    levels = [s.level_mean_dbm for v in visits if (s := v.summary).level_mean_dbm is not None]
    lowest = _lowest_heard(visits, links)
    bins = _bins(visits, split, links, lowest)
    groups: dict[tuple[str, int, str], int] = {}
    place = [at[v.stop, v.receiver_place] for v in visits]
    distances = np.array([v.distance_m for v in visits])
    noise = reference_noise(visits, reference_noise_dbm)
    return FitData(
        links=links,
        priors=known,
        thresholds=_thresholds(known),
        places=places,
        first_receiver=_first_receivers(links, receivers),
        conditions=conditions,
        penalties=penalties,
        law=law,
        centre_m=float(np.exp(np.mean(np.log(distances)))),
        link=np.array([links.index(v.link) for v in visits]),
        place=np.array(place),
        penalty=np.array(
            [
                -1 if v.condition == conditions[0] else penalties.index((v.link.rig, v.condition))
                for v in visits
            ]
        ),
        group=np.array(
            [
                groups.setdefault((v.link.rig, where, v.condition), len(groups))
                for v, where in zip(visits, place, strict=True)
            ]
        ),
        lost=np.array([float(v.summary.lost) for v in visits]),
        heard_unknown=np.array(
            [float(v.summary.heard - v.summary.heard_with_level) for v in visits]
        ),
        exact=np.array([one.count for one in split]),
        exact_mean=np.array([one.mean for one in split]),
        exact_squares=np.array([one.squares for one in split]),
        clipped=np.array([one.clipped for one in split]),
        bin_level=bins[0],
        bin_count=bins[1],
        noise_shift=_noise_shift(visits, noise),
        data_level_dbm=float(np.mean(levels)) if levels else None,
        lowest_heard_dbm=lowest,
        clip_dbm=clip_dbm,
        step_db=step_db,
        reference_noise_dbm=noise,
        threshold_doubt=threshold_doubt,
    )


def reference_first(conditions: Sequence[str], reference: str | None = None) -> tuple[str, ...]:
    """Return the condition names, the reference first: as said, so named, unnamed, or commonest."""
    names = sorted(set(conditions), key=lambda c: (-conditions.count(c), c))
    for candidate in (reference, "reference", "free", ""):
        if candidate is not None and candidate in names:
            names.remove(candidate)
            return (candidate, *names)
    return tuple(names)


def reference_noise(visits: Sequence[FitVisit], wanted_dbm: float | None) -> float | None:
    """Return the noise thresholds are stated at [dBm]: as wanted, else the median of the visits."""
    if wanted_dbm is not None:
        return wanted_dbm
    known = [n for v in visits if (n := v.summary.noise_mean_dbm) is not None]
    return float(np.median(known)) if known else None


def _first_receivers(links: Sequence[LinkKey], order: Sequence[str]) -> dict[str, str]:
    rank = {name: i for i, name in enumerate(order)}
    found: dict[str, str] = {}
    for link in sorted(links, key=lambda one: (rank.get(one.receiver, len(rank)), one.receiver)):
        found.setdefault(link.direction, link.receiver)
    return found


def _places(visits: Sequence[FitVisit]) -> tuple[Place, ...]:
    found: dict[tuple[str, str], Place] = {}
    for v in visits:
        found.setdefault(
            (v.stop, v.receiver_place),
            Place(v.stop, v.receiver_place, v.distance_m, v.spot, v.receiver_spot, v.distance_sd_m),
        )
    return tuple(
        sorted(found.values(), key=lambda one: (one.distance_m, one.stop, one.receiver_place))
    )


def _thresholds(priors: Sequence[LinkPrior]) -> tuple[Threshold, ...]:
    """Return one threshold for links that the same unit hears on the same setting."""
    found: dict[object, list[int]] = {}
    for i, one in enumerate(priors):
        named = one.unit and one.module_type
        key = (one.module_type, one.setting, one.unit, one.sensitivity_dbm) if named else i
        found.setdefault(key, []).append(i)
    return tuple(Threshold(priors[links[0]], tuple(links)) for links in found.values())


@dataclass(frozen=True, slots=True)
class _Split:
    count: float
    mean: float
    squares: float
    clipped: float
    counts: tuple[tuple[float, int], ...]


def _split_at_clip(summary: VisitSummary, clip_dbm: float | None) -> _Split:
    below = summary.level_counts
    if clip_dbm is not None:
        below = tuple((level, n) for level, n in below if level < clip_dbm - 0.01)
    count = float(sum(n for _, n in below))
    clipped = summary.heard_with_level - count
    if clipped == 0:
        mean = summary.level_mean_dbm or 0.0
        return _Split(count, mean, summary.level_squares, 0.0, below)
    levels = np.array([level for level, _ in below])
    weights = np.array([n for _, n in below], dtype=np.float64)
    mean = float(np.average(levels, weights=weights)) if count else 0.0
    squares = float(np.sum(weights * (levels - mean) ** 2)) if count else 0.0
    return _Split(count, mean, squares, clipped, below)


def _bins(
    visits: Sequence[FitVisit],
    split: Sequence[_Split],
    links: Sequence[LinkKey],
    lowest: Floats,
) -> tuple[Floats, Floats]:
    weakest = dict(zip(links, lowest, strict=True))
    kept = [
        [(a, n) for a, n in one.counts if a <= weakest[v.link] + BINS_ABOVE_LOWEST_DB]
        for v, one in zip(visits, split, strict=True)
    ]
    width = max((len(one) for one in kept), default=0) or 1
    level, count = np.zeros((len(visits), width)), np.zeros((len(visits), width))
    for row, one in enumerate(kept):
        for column, (a, n) in enumerate(one):
            level[row, column], count[row, column] = a, n
    return level, count


def _lowest_heard(visits: Sequence[FitVisit], links: Sequence[LinkKey]) -> Floats:
    lowest = np.full(len(links), np.nan)
    for v in visits:
        if v.summary.level_counts:
            i = links.index(v.link)
            lowest[i] = np.fmin(lowest[i], v.summary.level_counts[0][0])
    return lowest


def _noise_shift(visits: Sequence[FitVisit], reference_dbm: float | None) -> Floats:
    noise = np.array([np.nan if (x := v.summary.noise_mean_dbm) is None else x for v in visits])
    return np.where(np.isfinite(noise), noise - (reference_dbm or 0.0), 0.0)
