"""What would mend a weak place: each way with its dB, the places it wins, its price and its law."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.airtime.collisions import Traffic
from inchmark.core.checks import Floats
from inchmark.core.deciding.effects import Effect, effect_of, gained, meets_from
from inchmark.core.deciding.receivers import further_receivers, relayed
from inchmark.core.normal import ndtr
from inchmark.core.reading.expected import LIKELY
from inchmark.core.reading.place_draws import PlaceDraws
from inchmark.decide.figures.ground import Ground, MovedSpots
from inchmark.decide.figures.variants import Variant
from inchmark.shelf.adapters.rigs import airtime_s
from inchmark.shelf.figures.beside import Value
from inchmark.shelf.models import Rig

MASTS_M = (1.0, 2.0, 4.0, 6.0, 10.0, 15.0)  # more at the fixed end
POLES_M = (0.5, 1.0, 2.0, 4.0)  # more at the node
RADII_M = (5.0, 10.0, 20.0, 40.0, 80.0, 160.0)
BEARINGS = 12
SEED = 20
HELPS = 0.02  # of the chance: a change that does less is not named
# what usually costs least first, where no price is known; common practice
USUALLY = (
    "moved", "power", "setting", "antenna", "pole", "fixed antenna", "mast", "relay", "receiver",
)  # fmt: skip


FurtherReceiver = tuple[tuple[float, float], Effect]  # where, and what with those before it


@dataclass(frozen=True, slots=True, kw_only=True)
class Mend:
    """One way to mend a place; `spot` is where a thing would stand, `asks` what shows it on the page."""

    kind: str
    words: str
    gain_db: float | None
    chance: float
    effect: Effect
    won: tuple[str, ...]
    airtime_s: float
    life: Value | None
    price: float | None
    allowed: bool = True
    why: str = ""
    spot: tuple[float, float] | None = None
    asks: str = ""

    @property
    def holds(self) -> bool:
        """Tell whether the place then meets the rule as surely as is wanted."""
        return self.chance >= LIKELY


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Basis:
    """What mends of one rig are worked out from; `draws` hold the nodes' own traffic."""

    rig: Rig
    loss: float
    draws: PlaceDraws
    ground: Ground
    now: Effect

    @property
    def labels(self) -> list[str]:
        """Return the places by their labels."""
        return [one.label for one in self.ground.places]


def basis_of(rig: Rig, loss: float, draws: PlaceDraws, ground: Ground) -> Basis:
    """Return the basis, the traffic of as many nodes as there are places taken off."""
    shared = with_traffic(draws, airtime_s(rig), rig.period_s, len(ground.places))
    return Basis(rig=rig, loss=loss, draws=shared, ground=ground, now=gained(shared, loss))


def with_traffic(draws: PlaceDraws, airtime: float, period: float, nodes: int) -> PlaceDraws:
    """Return draws with the frames nodes take from each other among those lost whatever the level.

    Nodes at random times on one channel, any overlap killing both (Abramson 1970).
    """
    if nodes < 2:
        return draws
    kept = Traffic(senders=nodes, airtime_s=airtime, period_s=period).success_at_random_times()
    return replace(draws, floor=1 - (1 - draws.floor) * kept)


def mends_of(
    basis: Basis, place: int, changed: Sequence[Variant], receivers: Sequence[FurtherReceiver]
) -> list[Mend]:
    """Return what would mend a place, what holds and may be done first, then the cheapest.

    Of the receivers worth adding the first is looked at.
    """
    if basis.now.chances[place] >= LIKELY:
        return []
    found = [
        *_poles(basis, place),
        *_masts(basis, place),
        *_variants(basis, place, changed),
        *_moved(basis, place),
        *_relays(basis, place),
        *_receivers(basis, place, receivers),
    ]
    least = basis.now.chances[place] + HELPS
    return sorted((one for one in found if one.chance >= least), key=_order)


def _order(one: Mend) -> tuple[bool, bool, float, int]:
    known = one.price if one.price is not None else 0.0 if one.kind in ("moved",) else 1e9
    return not one.allowed, not one.holds, known, USUALLY.index(one.kind)


def _mend(basis: Basis, place: int, kind: str, words: str, effect: Effect, **more: object) -> Mend:
    won = tuple(basis.labels[i] for i in effect.won(basis.now))
    usual = {"airtime_s": airtime_s(basis.rig), "life": None, "price": None, "gain_db": None}
    return Mend(
        kind=kind, words=words, chance=effect.chances[place], effect=effect, won=won,
        **(usual | more),  # type: ignore[arg-type]
    )  # fmt: skip


def _poles(basis: Basis, place: int) -> Iterator[Mend]:
    """Yield the lowest pole at the node that holds, or the highest."""
    height = float(basis.ground.heights_m[place])
    for more in POLES_M:
        gain = basis.ground.lifted(place, height + more)
        every = np.zeros(len(basis.labels))
        every[place] = gain
        effect = gained(basis.draws, basis.loss, every)
        if effect.chances[place] >= LIKELY or more == POLES_M[-1]:
            words = f"{basis.labels[place]}’s antenna {more:g} m higher, at {height + more:g} m"
            yield _mend(basis, place, "pole", words, effect, gain_db=gain)
            return


def _masts(basis: Basis, place: int) -> Iterator[Mend]:
    """Yield the lowest mast at the fixed end that holds, or the highest."""
    for more in MASTS_M:
        height = basis.ground.mast_m + more
        gains = basis.ground.raised(height)
        effect = gained(basis.draws, basis.loss, gains)
        if effect.chances[place] >= LIKELY or more == MASTS_M[-1]:
            words = f"mast of the fixed end {more:g} m higher, at {height:g} m"
            yield _mend(
                basis, place, "mast", words, effect,
                gain_db=float(gains[place]), asks=f"mast={height:g}",
            )  # fmt: skip
            return


def _variants(basis: Basis, place: int, changed: Sequence[Variant]) -> Iterator[Mend]:
    before = airtime_s(basis.rig)
    for one in changed:
        draws, nodes = basis.draws, len(basis.labels)
        if one.airtime_s != before:
            kept = [
                Traffic(senders=nodes, airtime_s=air, period_s=basis.rig.period_s)
                for air in (before, one.airtime_s)
            ]
            ratio = kept[1].success_at_random_times() / kept[0].success_at_random_times()
            draws = replace(draws, floor=1 - (1 - draws.floor) * ratio)
        effect = gained(draws, basis.loss, one.gain_db)
        yield _mend(
            basis, place, one.kind, one.words, effect, gain_db=one.gain_db, price=one.price,
            airtime_s=one.airtime_s, life=one.life, allowed=one.allowed, why=one.why,
        )  # fmt: skip


def _moved(basis: Basis, place: int) -> Iterator[Mend]:
    """Yield the nearest spot around the place that holds, or the best of those looked at."""
    found = basis.ground.moved(place, RADII_M, BEARINGS)
    chances = _elsewhere(basis, place, found)
    holding = np.flatnonzero(chances >= LIKELY)
    best = int(holding[0]) if len(holding) else int(np.argmax(chances))
    draws = basis.draws
    slope = draws.exponent * found.nearer_db[best] + draws.wall_factor * found.fewer_walls_db[best]
    own = np.random.default_rng(SEED).standard_normal(len(draws.over))
    over = draws.over.copy()
    over[:, place] = draws.typical[:, place] + slope + found.fixed_db[best] + draws.place_db * own
    met = over >= draws.wanted_db(basis.loss)[:, None]
    gain = float(found.fixed_db[best] + np.median(slope))
    spot = found.spots[best]
    yield _mend(
        basis, place, "moved",
        f"{basis.labels[place]} {found.metres[best]:g} m away from where it is",
        effect_of(met), gain_db=gain, price=0.0, spot=(spot.lat_deg, spot.lon_deg),
    )  # fmt: skip


def _elsewhere(basis: Basis, place: int, found: MovedSpots) -> Floats:
    """Return how likely the rule holds at other spots, their shadowing not known (spots,)."""
    draws = basis.draws
    typical = draws.typical[:, place, None] + draws.exponent[:, None] * found.nearer_db
    typical = typical + draws.wall_factor[:, None] * found.fewer_walls_db + found.fixed_db
    wanted = draws.wanted_db(basis.loss)[:, None]
    chances: Floats = ndtr((typical - wanted) / draws.place_db[:, None]).mean(axis=0)
    return chances


def _relays(basis: Basis, place: int) -> Iterator[Mend]:
    """Yield the other place through which this one would most likely be heard."""
    ground, rig = basis.ground, basis.rig
    if len(ground.places) < 2 or any(one.lat is None for one in ground.places):
        return
    ends = [(one.lat or 0.0, one.lon or 0.0) for one in ground.places]
    spots = ground.spots(ends, ground.heights_m)
    antenna = rig.antenna_gain_dbi - rig.fixed_gain_dbi
    antenna += rig.fixed_feed_loss_db - rig.feed_loss_db - rig.housing_loss_db
    spots = replace(spots, fixed_db=spots.fixed_db + antenna)
    (other, _), *_ = relayed(basis.draws, basis.loss, spots, place, seed=SEED)
    met = basis.draws.meets(basis.loss)
    hop = meets_from(basis.draws, basis.loss, spots, other, seed=SEED)
    met[:, place] |= hop[:, place] & met[:, other]
    yield _mend(
        basis, place, "relay",
        f"{basis.labels[other]} passes the frames of {basis.labels[place]} on: its receiver stays on for them",
        effect_of(met), price=0.0, airtime_s=2 * airtime_s(rig), spot=ends[other],
    )  # fmt: skip


def _receivers(basis: Basis, place: int, receivers: Sequence[FurtherReceiver]) -> Iterator[Mend]:
    """Yield the further receiver that serves most places more."""
    for spot, added in receivers[:1]:
        yield _mend(
            basis, place, "receiver",
            f"a second receiver at {spot[0]:.5f}, {spot[1]:.5f}, {basis.ground.mast_m:g} m high",
            added, price=_end_price(basis.rig), spot=spot, asks=f"rx={spot[0]:.6f},{spot[1]:.6f}",
        )  # fmt: skip


def receivers_of(basis: Basis, *, most: int) -> list[FurtherReceiver]:
    """Return where further receivers serve most, each with those before it at work."""
    ground = basis.ground
    if any(one.lat is None for one in ground.places):
        return []
    ends = [*ground.candidates(), *((one.lat or 0.0, one.lon or 0.0) for one in ground.places)]
    spots = ground.spots(ends, ground.mast_m)
    found = further_receivers(basis.draws, basis.loss, spots, most=most, seed=SEED)
    return [(ends[one.spot], one.effect) for one in found]


def _end_price(rig: Rig) -> float | None:
    """Return what the parts of one more fixed end cost, None where a price is missing."""
    prices = [one.price for one in (rig.module_part, rig.fixed_antenna_part) if one is not None]
    known = [one for one in prices if one is not None]
    return sum(known) if known and len(known) == len(prices) else None
