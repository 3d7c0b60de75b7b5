"""The page of one rig's places: rows, what mends the one looked at, receivers worth adding."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from inchmark.core.deciding.effects import Effect, needed_gain_db
from inchmark.core.interval import Estimate
from inchmark.core.propagation.log_distance import range_factor
from inchmark.core.reading.result import Reading
from inchmark.core.wording import listed, number
from inchmark.decide.figures.mends import Basis, FurtherReceiver, Mend, mends_of, receivers_of
from inchmark.decide.figures.tornado import Tornado, tornado
from inchmark.decide.figures.tried import Tried, TriedPlaces, verdict_of
from inchmark.decide.figures.variants import Variant
from inchmark.plan.adapters.places import Target
from inchmark.plan.models import Site
from inchmark.shelf.models import Rig
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study

RECEIVERS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedRow:
    """A place: how likely the rule holds now and as tried, what it lacks [dB], what was not walked."""

    place: Target
    chance: float
    tried: float
    verdict: str
    lacks: str
    outside: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class MendRow:
    """A mend in words: what it gains, how far that reaches, how many are served then."""

    mend: Mend
    reach: str
    served: str
    won: str
    airtime_ms: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ReceiverRow:
    """A receiver worth adding: where, what with those before it, and how it is tried."""

    spot: tuple[float, float]
    served: str
    won: str
    asks: str


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Placed:
    """All the page shows of one rig."""

    rig: Rig
    site: Site | None
    tried: TriedPlaces
    rows: list[PlacedRow]
    looked_at: PlacedRow | None
    mends: list[MendRow]
    receivers: list[ReceiverRow]
    tornado: Tornado | None
    sentence: str
    words: str
    reading_pk: int = 0

    @property
    def expected(self) -> float:
        """Return how many places are expected to be served as it is."""
        return sum(self.tried.basis.now.chances)

    @property
    def ground_words(self) -> str:
        """Return over what paths are worked out."""
        return self.tried.basis.ground.words


def placed(
    study: Study,
    basis: Basis,
    changed: Sequence[Variant],
    asked: str,
    tried: Tried,
    reading: Reading | None = None,
) -> Placed:
    """Return the page of a rig's places; the place asked for, or the weakest, is looked at."""
    with_tried = TriedPlaces(basis=basis, tried=tried)
    rows = sorted(
        _rows(basis, with_tried.effect, reading), key=lambda one: (one.tried, -one.place.distance_m)
    )
    looked_at = next((one for one in rows if one.place.label == asked), rows[0] if rows else None)
    revision = (basis.rig.pk, id(basis))
    at = basis.labels.index(looked_at.place.label) if looked_at else None
    receivers = per_revision(
        study, "receivers", lambda: receivers_of(basis, most=RECEIVERS), *revision
    )
    mends = (
        per_revision(study, "mends", lambda: mends_of(basis, at, changed, receivers), *revision, at)
        if at is not None
        else []
    )
    return Placed(
        rig=basis.rig,
        site=basis.ground.site,
        tried=with_tried,
        rows=rows,
        looked_at=looked_at,
        mends=[_mend_row(basis, one) for one in mends],
        receivers=list(_receiver_rows(basis, receivers)),
        tornado=per_revision(study, "tornado", lambda: tornado(basis, reading), *revision),
        sentence=_sentence(basis, with_tried),
        words=_words(basis, with_tried),
    )


def _rows(basis: Basis, effect: Effect, reading: Reading | None) -> list[PlacedRow]:
    served = (one for one in (reading.served if reading else ()) if one.rig == basis.rig.letter)
    outside = {place.place: place.extrapolated for one in served for place in one.places}
    return [
        PlacedRow(
            place=one,
            chance=basis.now.chances[i],
            tried=effect.chances[i],
            verdict=verdict_of(effect.chances[i]),
            lacks=_lacks(needed_gain_db(basis.draws, basis.loss, i)),
            outside=listed(list(outside.get(one.label, ()))) if outside.get(one.label) else "",
        )
        for i, one in enumerate(basis.ground.places)
    ]


def _lacks(needed: float | None) -> str:
    if needed is None:
        return "no level is enough"
    return f"{number(needed, 1)} dB" if needed > 0 else ""


def _count(effect: Effect, places: int) -> str:
    return f"{effect.count.estimate:.0f} of {places}"


def _limits(count: Estimate) -> str:
    return f"95 %: {count.low:.0f} to {count.high:.0f}"


def _sentence(basis: Basis, tried: TriedPlaces) -> str:
    places, letter = len(basis.labels), basis.rig.letter
    now = f"{letter} serves {_count(basis.now, places)} places ({_limits(basis.now.count)})"
    if not tried.tried.anything:
        return f"{now}."
    effect = tried.effect
    return f"{now}; as tried {_count(effect, places)} ({_limits(effect.count)})."


def _words(basis: Basis, tried: TriedPlaces) -> str:
    won = [basis.labels[i] for i in tried.effect.won(basis.now)]
    words = [
        f"The frames of all {len(basis.labels)} nodes are on the air with their own traffic.",
        f"Heights, masts and spots are reckoned {basis.ground.words}.",
    ]
    if won:
        words.insert(0, f"Won: {listed(won)}.")
    return " ".join(words)


def _mend_row(basis: Basis, one: Mend) -> MendRow:
    exponent = float(basis.draws.exponent.mean())
    uniform = one.kind in ("power", "setting", "antenna", "fixed antenna")
    reach = (
        f"×{number(float(range_factor(one.gain_db, exponent)), 2)}"
        if uniform and one.gain_db is not None
        else ""
    )
    return MendRow(
        mend=one,
        reach=reach,
        served=_count(one.effect, len(basis.labels)),
        won=listed(list(one.won)) if one.won else "",
        airtime_ms=1e3 * one.airtime_s,
    )


def _receiver_rows(basis: Basis, receivers: Sequence[FurtherReceiver]) -> list[ReceiverRow]:
    before, asks, found = basis.now, "", []
    for spot, effect in receivers:
        asks = f"{asks}&rx={spot[0]:.6f},{spot[1]:.6f}".lstrip("&")
        won = [basis.labels[i] for i in effect.won(before)]
        served = f"{_count(effect, len(basis.labels))} ({_limits(effect.count)})"
        found.append(
            ReceiverRow(spot=spot, served=served, won=listed(won) if won else "", asks=asks)
        )
        before = effect
    return found
