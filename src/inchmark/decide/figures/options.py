"""Options: what the shelf's parts and settings would do at the needed places, side by side."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from copy import copy
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.budget import EndName
from inchmark.core.checks import Floats
from inchmark.core.deciding.options import Outcomes, not_dominated, outcomes
from inchmark.core.interval import Estimate
from inchmark.core.reading.place_draws import PlaceDraws
from inchmark.core.wording import listed
from inchmark.decide.figures.variants import (
    OFF_BAND,
    gain_db,
    power_of,
    with_antenna,
    with_fixed_feed,
    with_power,
    with_setting,
    within_limits,
)
from inchmark.shelf.adapters.parts import chain_of
from inchmark.shelf.adapters.rigs import airtime_s
from inchmark.shelf.figures.candidates import battery_life
from inchmark.shelf.figures.limits import duty_of, legal_checks
from inchmark.shelf.models import Antenna, Battery, Feed, Rig, Setting

WALKED, PARTLY, COMPUTED = "walked", "partly walked", "computed"
SETTING, POWER, AT_NODE = "setting", "power", "antenna at the node"
SAME_DB = 0.05  # a power so near to another is that power
AT_FIXED, FEED_FIXED = "antenna at the fixed end", "feed at the fixed end"
MOST = 40_000  # options at once; more are said to be too many


@dataclass(frozen=True, slots=True, kw_only=True)
class Allowed:
    """What options are made of: what the user lets them be."""

    settings: Sequence[Setting]
    antennas: Sequence[Antenna]
    batteries: Sequence[Battery]
    feeds: Sequence[Feed] = ()
    powers_dbm: Sequence[float] = ()  # of the sender, beside that of the rig or its limit


@dataclass(frozen=True, slots=True, kw_only=True)
class Walked:
    """A walked rig with its draws, and how it is judged."""

    rig: Rig
    draws: PlaceDraws
    sender: EndName


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """One combination and what it does; `beside` is the walked rig it is reckoned from."""

    beside: str
    module: str
    setting: str
    antenna: str
    fixed_antenna: str
    fixed_feed: str
    battery: str
    power_dbm: float  # of the sender
    gain_db: float
    in_hand_db: float
    served: Estimate
    expected: float
    share: float
    airtime_s: float
    per_hour: float
    latency_s: float | None  # until 95 % of messages are heard, repeated as often as is allowed
    life_years: float | None
    cost_node: float | None
    cost_fixed: float | None
    allowed: bool
    why: str
    basis: str
    not_walked: tuple[str, ...]
    stands_out: bool = False

    @property
    def basis_words(self) -> str:
        """Return whether it was walked, and which items were not."""
        if self.basis != PARTLY:
            return self.basis
        return f"{self.basis}: not the {listed(list(self.not_walked))}"


@dataclass(frozen=True, slots=True)
class _Pair:
    """A setting, a power of the sender and an antenna at the node, within the limits."""

    rig: Rig
    gain_db: float
    changed: tuple[str, ...]
    allowed: bool
    why: str
    antenna_price: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class _End:
    """An antenna and a feed at the fixed end; `gain_db` is against the walked ones."""

    antenna: str
    feed: str
    gain_db: float
    changed: tuple[str, ...]
    prices: tuple[float | None, ...]


def count_of(walked: Sequence[Walked], allowed: Allowed) -> int:
    """Return how many options there would be at most."""
    return sum(_count(one.rig, allowed) for one in walked)


def _count(rig: Rig, allowed: Allowed) -> int:
    nodes = len(_fitting(rig, allowed.antennas, rig.antenna_part_id)) + 1
    ends = len(_fitting(rig, allowed.antennas, rig.fixed_antenna_part_id)) + 1
    powers = len(_given(rig, allowed.powers_dbm)) + 1
    settings = len(_near(rig, allowed.settings)) + 1
    per_end = ends * (len(allowed.feeds) + 1) * max(len(allowed.batteries), 1)
    return settings * nodes * powers * per_end


def _near(rig: Rig, settings: Sequence[Setting]) -> list[Setting]:
    """Return other settings of a rig's module near its frequency."""
    return [
        row
        for row in settings
        if row.module_id == rig.module_part_id
        and row.pk != rig.setting_part_id
        and abs(row.frequency_hz / rig.frequency_hz - 1) < 0.05
    ]


def _given(rig: Rig, powers: Sequence[float]) -> list[float]:
    """Return the powers that a rig's module gives [dBm]."""
    module = rig.module_part
    if module is None:
        return []
    return [one for one in powers if module.power_low_dbm <= one <= module.power_high_dbm]


def options_of(
    walked: Sequence[Walked], allowed: Allowed, *, loss: float, region: str
) -> list[Option]:
    """Return every option, those that none beats in everything marked."""
    found: dict[tuple[str, ...], Option] = {}
    for one in walked:
        for option in _of_rig(one, allowed, loss, region):
            key = (
                option.module, option.setting, option.antenna, option.fixed_antenna,
                option.fixed_feed, option.battery, f"{option.power_dbm:.1f}",
                "" if option.not_walked else option.beside,  # each walked rig stands for itself
            )  # fmt: skip
            known = found.get(key)
            if known is None or _nearness(option) < _nearness(known):
                found[key] = option
    return _marked(list(found.values()))


def idle_powers(options: Sequence[Option], powers: Sequence[float]) -> str:
    """Return the powers that no option has, in words; empty where each has one."""
    used = [one.power_dbm for one in options]
    idle = [power for power in powers if all(abs(power - own) > SAME_DB for own in used)]
    return listed([f"{one:g} dBm" for one in idle]) if idle and options else ""


def _nearness(one: Option) -> tuple[int, float]:
    """Return how far an option is from the walked rig it is reckoned from."""
    return len(one.not_walked), abs(one.gain_db)


def _of_rig(one: Walked, allowed: Allowed, loss: float, region: str) -> Iterator[Option]:
    rig = one.rig
    pairs = list(_pairs(one, allowed, region))
    ends = list(_ends(one, allowed))
    batteries: list[Battery | None] = list(allowed.batteries) or [rig.battery]
    product = list(itertools.product(pairs, ends, batteries))
    gains = np.array([pair.gain_db + end.gain_db for pair, end, _ in product])
    airs = np.array([airtime_s(pair.rig) for pair in pairs])
    air = np.repeat(airs, len(ends) * len(batteries))
    told = outcomes(one.draws, loss, gained_db=gains, airtime_s=air, period_s=rig.period_s)
    lives = {
        (i, b): _life(pair.rig, battery)
        for i, pair in enumerate(pairs)
        for b, battery in enumerate(batteries)
    }
    hours = [_per_hour(pair.rig, region, airs[i]) for i, pair in enumerate(pairs)]
    per = len(ends) * len(batteries)
    for i, (pair, end, battery) in enumerate(product):
        at = i // per
        yield _option(
            one, pair, end, battery, told, i,
            life=lives[at, i % len(batteries)], air=float(airs[at]), per_hour=hours[at],
        )  # fmt: skip


def _pairs(one: Walked, allowed: Allowed, region: str) -> Iterator[_Pair]:
    """Yield settings with antennas at the node and powers, each within the limits."""
    rig = one.rig
    for setting in (None, *_near(rig, allowed.settings)):
        set_so = rig if setting is None else with_setting(rig, setting)
        for antenna in (None, *_fitting(rig, allowed.antennas, rig.antenna_part_id)):
            made = set_so if antenna is None else with_antenna(set_so, antenna, EndName.CARRIED)
            part = antenna or rig.antenna_part
            changed = [
                name for name, part in ((SETTING, setting), (AT_NODE, antenna)) if part is not None
            ]
            for i, at_power in enumerate(_at_powers(made, one.sender, allowed.powers_dbm, region)):
                check = legal_checks(at_power, region)[0 if one.sender is EndName.CARRIED else 1]
                yield _Pair(
                    rig=at_power, gain_db=gain_db(rig, at_power, one.sender),
                    changed=(*changed, *([POWER] if i else [])),
                    allowed=check.fits, why="" if check.fits else "beyond a limit",
                    antenna_price=part.price if part else None,
                )  # fmt: skip


def _at_powers(rig: Rig, sender: EndName, powers: Sequence[float], region: str) -> Iterator[Rig]:
    """Yield a rig at its own power or its limit, and at others that its module gives and the limit allows."""
    first, _ = within_limits(rig, sender, region)
    yield first
    own = power_of(first, sender)
    best = legal_checks(first, region)[0 if sender is EndName.CARRIED else 1].best
    most = own + best.left_db if best is not None else own
    for power in _given(rig, powers):
        if power <= most + SAME_DB and abs(power - own) > SAME_DB:
            yield with_power(first, sender, power)


def _ends(one: Walked, allowed: Allowed) -> Iterator[_End]:
    """Yield antennas and feeds at the fixed end, as walked first; feeds whose plugs do not fit are left out."""
    rig = one.rig
    for antenna in (None, *_fitting(rig, allowed.antennas, rig.fixed_antenna_part_id)):
        held = rig if antenna is None else with_antenna(rig, antenna, EndName.FIXED)
        for feed in (None, *(f for f in allowed.feeds if f.pk != rig.fixed_feed_part_id)):
            made = held if feed is None else with_fixed_feed(held, feed)
            if feed is not None and len(chain_of(made)) > len(chain_of(held)):
                continue
            parts = (made.fixed_antenna_part, made.fixed_feed_part)
            yield _End(
                antenna=made.fixed_antenna or "as walked",
                feed=parts[1].name if parts[1] else "",
                gain_db=0.0 if made is rig else gain_db(rig, made, one.sender),
                changed=tuple(
                    name for name, part in ((AT_FIXED, antenna), (FEED_FIXED, feed)) if part
                ),
                prices=tuple(part.price for part in parts if part is not None)
                if parts[0]
                else (None,),
            )


def _fitting(rig: Rig, antennas: Sequence[Antenna], own: int | None) -> list[Antenna]:
    return [
        one
        for one in antennas
        if one.pk != own
        and one.type != Antenna.MAGNETIC
        and abs((one.cut_for_hz or rig.frequency_hz) / rig.frequency_hz - 1) <= OFF_BAND
    ]


def _life(rig: Rig, battery: Battery | None) -> float | None:
    if battery is None:
        return None
    other = copy(rig)
    other.battery = battery
    return battery_life(other, None).value


def _per_hour(rig: Rig, region: str, airtime: float) -> float:
    return duty_of(rig, region).percent / 100 * 3600 / airtime


def _option(
    one: Walked,
    pair: _Pair,
    end: _End,
    battery: Battery | None,
    told: Outcomes,
    i: int,
    *,
    life: float | None,
    air: float,
    per_hour: float,
) -> Option:
    not_walked = (*pair.changed, *end.changed)
    module = pair.rig.module_part
    return Option(
        beside=one.rig.letter, module=pair.rig.module, setting=pair.rig.setting,
        antenna=pair.rig.antenna, fixed_antenna=end.antenna, fixed_feed=end.feed,
        battery=battery.name if battery else "–",
        power_dbm=power_of(pair.rig, one.sender), gain_db=pair.gain_db + end.gain_db,
        in_hand_db=float(told.in_hand_db[i]),
        served=Estimate(*(float(x[i]) for x in (told.served, told.served_low, told.served_high))),
        expected=float(told.expected[i]), share=float(told.share[i]), airtime_s=air,
        per_hour=per_hour, latency_s=_latency_s(float(told.tries[i]), air, per_hour), life_years=life,
        cost_node=_sum(module.price if module else None, pair.antenna_price,
                       battery.price if battery else 0.0),
        cost_fixed=_sum(module.price if module else None, *end.prices),
        allowed=pair.allowed, why=pair.why, not_walked=not_walked,
        basis=WALKED if not not_walked else PARTLY if len(not_walked) < 3 else COMPUTED,
    )  # fmt: skip


def _latency_s(tries: float, airtime: float, per_hour: float) -> float | None:
    """Return until when 95 % of messages are heard [s]; None where they never are."""
    if not math.isfinite(tries) or (tries > 1 and per_hour <= 0):
        return None
    return airtime + (tries - 1) * max(3600 / per_hour, airtime) if tries > 1 else airtime


def _sum(*prices: float | None) -> float | None:
    known = [one for one in prices if one is not None]
    return sum(known) if len(known) == len(prices) else None


def _marked(options: list[Option]) -> list[Option]:
    """Return the options, the allowed ones that none beats in everything marked; best first."""
    if not options:
        return []
    best = not_dominated(_costs([one for one in options if one.allowed]))
    marks = iter(best.tolist())
    found = [replace(one, stands_out=next(marks)) if one.allowed else one for one in options]
    return sorted(found, key=lambda one: (not one.stands_out, -one.expected, one.cost_node or 1e9))


def _costs(options: Sequence[Option]) -> Floats:
    """Return what is wanted small, one row an option: fewer served, shorter life, money, time on air."""
    rows = [
        (
            -round(one.expected, 1),
            -(one.life_years if one.life_years is not None else np.nan),
            np.nan if one.cost_node is None else one.cost_node,
            np.nan if one.cost_fixed is None else one.cost_fixed,
            one.airtime_s,
        )
        for one in options
    ]
    return np.array(rows, dtype=np.float64).reshape(len(rows), 5)
