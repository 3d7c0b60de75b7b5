"""What a plan can compare cleanly, what it confounds, and the order of its visits."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from inchmark.core.checks import within
from inchmark.core.wording import listed

Varied = Mapping[str, str]  # thing -> value of one rig


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """Two rigs and the things that differ between them."""

    one: str
    other: str
    things: tuple[str, ...]

    @property
    def clean(self) -> bool:
        """Tell whether exactly one thing differs."""
        return len(self.things) == 1


def comparisons(rigs: Mapping[str, Varied]) -> list[Comparison]:
    """Return every pair of rigs, clean ones first."""
    found = [
        Comparison(one=a, other=b, things=tuple(k for k in rigs[a] if rigs[a][k] != rigs[b][k]))
        for a, b in combinations(rigs, 2)
    ]
    return sorted(found, key=lambda pair: (not pair.clean, len(pair.things), pair.one, pair.other))


def remedies(rigs: Mapping[str, Varied]) -> list[str]:
    """Return what to add so that a confounded pair can be split, in sentences.

    A pair that differs in several things is split once a chain of clean pairs joins its ends.
    """
    pairs = comparisons(rigs)
    joined = _joined([(p.one, p.other) for p in pairs if len(p.things) <= 1], list(rigs))
    said, sentences = set(), []
    for pair in pairs:
        if len(pair.things) < 2 or joined[pair.one] == joined[pair.other]:
            continue
        key = frozenset((joined[pair.one], joined[pair.other]))
        if key in said:
            continue
        said.add(key)
        sentences.append(
            f"{pair.one} and {pair.other} differ in {listed(list(pair.things))} at once. Add a rig like {pair.one} with only the {pair.things[0]} of {pair.other}."
        )
    return sentences


def _joined(links: Sequence[tuple[str, str]], rigs: Sequence[str]) -> dict[str, str]:
    """Return a common name for rigs that clean pairs join."""
    group = {rig: rig for rig in rigs}
    for one, other in links:
        old, new = group[other], group[one]
        group = {rig: new if name == old else name for rig, name in group.items()}
    return group


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedVisit:
    """One rig at one stop in one pass, in the order of work of an outing (a day or a person).

    `way` is how it is carried or what is on beside it, empty as usual.
    """

    place: int
    pass_number: int
    stop: str
    rig: str
    outing: int = 1
    way: str = ""


USUAL_WAYS = (
    "other radios on",
    "in a pocket",
    "inside the vehicle",
    "outside the vehicle",
    "held high",
    "antenna coiled",
)
TOGETHER, APART, DAYS, PEOPLE = "together", "apart", "days", "people"
ARRANGEMENTS = (TOGETHER, APART, DAYS, PEOPLE)


def order_of_work(
    rigs: Sequence[str],
    stops: Sequence[str],
    *,
    passes: int,
    seed: int,
    shuffled: bool,
    arrangement: str = TOGETHER,
    ways: Sequence[str] = ("",),
) -> list[PlannedVisit]:
    """Return the visits: stops outwards, back on every second pass, every rig in each of the `ways`.

    Together, every rig stands at every stop, drawn anew each time: what drifts (weather, battery,
    tide) is then confounded with none. Apart, the rigs go one after another; on days or with people of
    their own, each outing takes one rig a pass, and they change hands from pass to pass.

    Raises
    ------
    ValueError
        Passes out of 1 to 10, or an unknown arrangement.
    """
    within("passes", passes, 1, 10)
    if arrangement not in ARRANGEMENTS:
        raise ValueError(f"arrangement={arrangement!r} must be one of {', '.join(ARRANGEMENTS)}")
    random = np.random.default_rng(seed)
    if arrangement == TOGETHER:
        found = _visits(rigs, stops, passes, random if shuffled else None)
    else:
        drawn = _drawn(rigs, random) if shuffled else list(rigs)
        found = _outings(drawn, stops, passes, arrangement)
    return list(_in_ways(found, ways, random if shuffled else None))


def _drawn(names: Sequence[str], random: np.random.Generator | None) -> list[str]:
    return list(names) if random is None else [names[i] for i in random.permutation(len(names))]


def _in_ways(
    visits: Iterator[PlannedVisit], ways: Sequence[str], random: np.random.Generator | None
) -> Iterator[PlannedVisit]:
    """Yield every visit in each of the ways, their order drawn anew each time."""
    if len(ways) < 2:
        yield from visits
        return
    listed_ones = list(visits)
    for i, visit in enumerate(listed_ones):
        for j, way in enumerate(_drawn(ways, random)):
            yield replace(visit, place=i * len(ways) + j + 1, way=way)


def _visits(
    rigs: Sequence[str], stops: Sequence[str], passes: int, random: np.random.Generator | None
) -> Iterator[PlannedVisit]:
    place = 0
    for number in range(1, passes + 1):
        for stop in stops if number % 2 else reversed(stops):
            for rig in _drawn(rigs, random):
                place += 1
                yield PlannedVisit(place=place, pass_number=number, stop=stop, rig=rig)


def _outings(
    rigs: Sequence[str], stops: Sequence[str], passes: int, arrangement: str
) -> Iterator[PlannedVisit]:
    """Yield walks of one rig each; on days or with people, pass p of outing k takes rig k + p."""
    place = 0
    for k in range(len(rigs)):
        for number in range(1, passes + 1):
            rig = rigs[k if arrangement == APART else (k + number - 1) % len(rigs)]
            for stop in stops if number % 2 else reversed(stops):
                place += 1
                yield PlannedVisit(
                    place=place,
                    pass_number=number,
                    stop=stop,
                    rig=rig,
                    outing=1 if arrangement == APART else k + 1,
                )


@dataclass(frozen=True, slots=True, kw_only=True)
class Confounding:
    """What sides with the rigs in a plan, and what to do about it, in sentences."""

    words: str
    remedy: str


def confounded(visits: Sequence[PlannedVisit], arrangement: str) -> list[Confounding]:
    """Return what is confounded with the rigs: stop order, time, day or carrier; nothing if none.

    Days and people are told apart from rigs as soon as rigs change hands in a way that joins all
    of them: the links of outing and rig then hang together.
    """
    return [*_rigs_confounded(visits, arrangement), *_ways_confounded(visits)]


def _ways_confounded(visits: Sequence[PlannedVisit]) -> list[Confounding]:
    """Return the way that comes first, or last, at every visit of a rig: a drift sides with it."""
    order: dict[tuple[int, int, str, str], list[str]] = {}
    for visit in visits:
        key = (visit.outing, visit.pass_number, visit.stop, visit.rig)
        order.setdefault(key, []).append(visit.way or "as usual")
    return [
        Confounding(words=words, remedy="Let the order be drawn, so that it changes.")
        for words in _ends_of(order.values(), "whenever a rig stands")
    ]


def _rigs_confounded(visits: Sequence[PlannedVisit], arrangement: str) -> list[Confounding]:
    rigs = sorted({visit.rig for visit in visits})
    if len(rigs) < 2:
        return []
    if arrangement == TOGETHER:
        remedy = "Let the rigs be drawn anew at each stop."
        return [Confounding(words=words, remedy=remedy) for words in drift_confounded(visits)]
    if arrangement == APART:
        return [
            Confounding(
                words=f"{listed(rigs)} go one after another, so the time of day, weather and tide side with the rig.",
                remedy="Let every rig stand at every stop before walking on.",
            )
        ]
    links = {(f"outing {visit.outing}", visit.rig) for visit in visits}
    groups = _joined(sorted(links), sorted({name for link in links for name in link}))
    if len(set(groups.values())) == 1:
        return []
    if arrangement == DAYS:
        return [
            Confounding(
                words=f"{listed(rigs)} have a day each, so weather, wet ground and batteries are in every comparison.",
                remedy="Walk two passes or more: rigs then change days. Or take all rigs every day.",
            )
        ]
    return [
        Confounding(
            words=f"{listed(rigs)} have a carrier each, so how a person holds it is in every comparison.",
            remedy="Walk two passes or more: rigs then change hands.",
        )
    ]


def drift_confounded(visits: Sequence[PlannedVisit]) -> list[str]:
    """Return the rigs that come first, or last, at every stop: a drift sides with them."""
    order: dict[tuple[int, str], list[str]] = {}
    for visit in visits:
        order.setdefault((visit.pass_number, visit.stop), []).append(visit.rig)
    return _ends_of(order.values(), "at every stop")


def _ends_of(orders: Iterable[Sequence[str]], where: str) -> list[str]:
    """Return which of several names always comes first, or last, in sentences."""
    lists = [one for one in orders if len(set(one)) > 1]
    if len(lists) < 2:
        return []
    found = []
    for end, words in ((0, "first"), (-1, "last")):
        names = {one[end] for one in lists}
        if len(names) == 1:
            found.append(f"{names.pop()} comes {words} {where}, so a drift sides with it.")
    return found


def zero_lost_shows(frames: int, *, confidence: float = 0.95) -> float:
    """Return the loss [share] that no lost frame of `frames` shows to be under.

    The exact one-sided bound 1 - (1 - confidence)^(1/n) (textbook).
    """
    within("frames", frames, 1, 10_000_000)
    return float(1 - (1 - confidence) ** (1 / frames))


def frames_for_level(half_width_db: float, spread_db: float) -> int:
    """Return the frames after which a visit's mean level is known to half a width [dB], 95 %.

    n = (1.96 s / w)^2 of independent frames (textbook).
    """
    within("half_width_db", half_width_db, 0.01, 60)
    within("spread_db", spread_db, 0.0, 60)
    return max(int(np.ceil((1.96 * spread_db / half_width_db) ** 2)), 1)
