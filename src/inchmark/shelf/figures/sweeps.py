"""What sweeps say, and what to try next."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby

from inchmark.core.antenna.match import REFERENCE_OHM, Match
from inchmark.core.antenna.match import Sweep as CoreSweep
from inchmark.core.antenna.states import StatesCost, states_cost
from inchmark.core.antenna.trim import NextTrial, Trial, Tried, next_trial, notices
from inchmark.core.wording import number
from inchmark.shelf.adapters.sweeps import core_sweep
from inchmark.shelf.models import Sweep

OPEN = 1e-6  # from total reflection in phase: an open end has no finite impedance
SAME = 1e-6
GOOD_VSWR = 2.0  # common practice: 0.5 dB lost


FLAT_DB = 20.0  # a match this good over a tenth of the frequency is no antenna's


FLAT_SHARE = 0.10


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepFigures:
    """What one sweep says; band figures are None where the sweep does not cover the band."""

    best_hz: float
    best_vswr: float
    matched_low_hz: float | None
    matched_high_hz: float | None
    vswr_low: float | None
    vswr_centre: float | None
    vswr_high: float | None
    worst_vswr: float | None
    centre_loss_db: float | None
    flat: bool

    @property
    def width_hz(self) -> float:
        """Return the width over which the return loss is 10 dB or more [Hz]."""
        if self.matched_low_hz is None or self.matched_high_hz is None:
            return 0.0
        return self.matched_high_hz - self.matched_low_hz

    @property
    def good(self) -> bool:
        """Tell whether the whole band is matched as is common practice."""
        return self.worst_vswr is not None and self.worst_vswr <= GOOD_VSWR


def sweep_figures(sweep: Sweep) -> SweepFigures:
    """Return what a sweep says of its band."""
    one = core_sweep(sweep)
    low, high = sweep.band_low_hz, sweep.band_high_hz
    matched = one.matched_range_hz(10.0)
    covered = one.frequency_hz[0] <= low and high <= one.frequency_hz[-1]
    at = [one.match_at(f) for f in (low, (low + high) / 2, high)] if covered else [None] * 3
    flat = one.matched_range_hz(FLAT_DB)
    return SweepFigures(
        best_hz=float(one.frequency_hz[one.best]),
        best_vswr=float(one.vswr[one.best]),
        matched_low_hz=matched[0] if matched else None,
        matched_high_hz=matched[1] if matched else None,
        vswr_low=at[0].vswr if at[0] else None,
        vswr_centre=at[1].vswr if at[1] else None,
        vswr_high=at[2].vswr if at[2] else None,
        worst_vswr=one.worst_vswr(low, high) if covered else None,
        centre_loss_db=at[1].mismatch_loss_db if at[1] else None,
        flat=bool(flat and flat[1] - flat[0] >= FLAT_SHARE * one.frequency_hz[one.best]),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Marker:
    """What a sweep shows at one frequency: reflection, impedance [Ohm], loss [dB]; None outside it."""

    frequency_hz: float
    words: str
    match: Match | None
    resistance_ohm: float | None
    reactance_ohm: float | None


def markers_of(sweep: Sweep, typed_hz: Iterable[float] = ()) -> list[Marker]:
    """Return the markers of a sweep: the band's ends and centre, the best match, those typed."""
    one, low, high = core_sweep(sweep), sweep.band_low_hz, sweep.band_high_hz
    usual = [
        (low, "band from"),
        ((low + high) / 2, "centre"),
        (high, "band to"),
        (float(one.frequency_hz[one.best]), "best match"),
    ]
    return [_marker(one, hz, words) for hz, words in [*usual, *((hz, "") for hz in typed_hz)]]


def _marker(one: CoreSweep, hz: float, words: str) -> Marker:
    if not one.frequency_hz[0] <= hz <= one.frequency_hz[-1]:
        return Marker(
            frequency_hz=hz, words=words, match=None, resistance_ohm=None, reactance_ohm=None
        )
    g = complex(one.at(hz))
    z = REFERENCE_OHM * (1 + g) / (1 - g) if abs(1 - g) > OPEN else None
    return Marker(
        frequency_hz=hz,
        words=words,
        match=one.match_at(hz),
        resistance_ohm=None if z is None else z.real,
        reactance_ohm=None if z is None else z.imag,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class StateSet:
    """Sweeps of one antenna or unit in states, the newest of each, and what states cost at a frequency."""

    name: str
    frequency_hz: float
    sweeps: dict[str, Sweep]
    cost: StatesCost

    @property
    def sentence(self) -> str:
        """Return what the states cost, in words; empty with one state alone."""
        parts, cost = [], self.cost
        if cost.metal_costs_db is not None:
            moved = (
                ""
                if not cost.moved_hz
                else f" and moves the best match by {number(cost.moved_hz / 1e6, 1, sign=True)} MHz"
            )
            parts.append(f"Metal costs {number(cost.metal_costs_db, 1)} dB of match{moved}")
        if cost.retuning_gives_db is not None:
            of = "" if cost.metal_costs_db is None else f" of the {number(cost.metal_costs_db, 1)}"
            parts.append(f"retuning gives back {number(cost.retuning_gives_db, 1)}{of} dB")
        words = "; ".join(parts)
        return f"{words[0].upper()}{words[1:]}." if words else ""


def state_sets(sweeps: Iterable[Sweep]) -> list[StateSet]:
    """Return the sets of sweeps in two states or more, by antenna and unit."""
    named = sorted(
        (s for s in sweeps if s.state), key=lambda s: (s.antenna, s.unit, s.swept_on, s.pk)
    )
    found = [_state_set(name, list(rows)) for name, rows in groupby(named, key=_whose)]
    return [one for one in found if len(one.sweeps) > 1]


def _whose(sweep: Sweep) -> str:
    return f"{sweep.antenna}, unit {sweep.unit}" if sweep.unit else sweep.antenna


def _state_set(name: str, rows: list[Sweep]) -> StateSet:
    newest = {sweep.state: sweep for sweep in rows}
    last = rows[-1]
    centre = (last.band_low_hz + last.band_high_hz) / 2
    cost = states_cost({state: core_sweep(one) for state, one in newest.items()}, centre)
    return StateSet(name=name, frequency_hz=centre, sweeps=newest, cost=cost)


@dataclass(frozen=True, slots=True, kw_only=True)
class TrimLog:
    """The sweeps of one series in the order of the value, and the value to try next."""

    series: str
    changed: str
    centre_hz: float
    last_pk: int
    rows: list[tuple[Sweep, SweepFigures]]
    advice: NextTrial | None
    notices: list[str]

    @property
    def what(self) -> str:
        """Return what is changed, without its unit: “distance to iron, mm” is a distance to iron."""
        return self.changed.rpartition(",")[0].strip() or self.changed or "the value"

    @property
    def unit(self) -> str:
        """Return the unit that stands behind the last comma, if it is a short one."""
        what, _, unit = self.changed.rpartition(",")
        return unit.strip() if what and len(unit.strip()) <= 8 else ""

    @property
    def towards(self) -> str:
        """Return how far and which way the advice goes from the trial made last, in words."""
        if self.advice is None:
            return ""
        last = max(self.rows, key=lambda row: row[0].pk)[0].value or 0.0
        by = self.advice.value - last
        if abs(by) < SAME:
            return "as the last one was"
        return f"{number(abs(by), 1 if abs(by) >= 1 else 2)} {self.unit} {'more' if by > 0 else 'less'} than last".replace(
            "  ", " "
        )


def trim_logs(sweeps: Iterable[Sweep]) -> list[TrimLog]:
    """Return the trim logs of a study's sweeps."""
    named = sorted((s for s in sweeps if s.series), key=lambda s: (s.series, s.value or 0.0, s.pk))
    return [
        _trim_log(series, list(rows)) for series, rows in groupby(named, key=lambda s: s.series)
    ]


def _trim_log(series: str, sweeps: list[Sweep]) -> TrimLog:
    rows = [(sweep, sweep_figures(sweep)) for sweep in sweeps]
    last = max(sweeps, key=lambda sweep: sweep.pk)
    centre = (last.band_low_hz + last.band_high_hz) / 2
    trials = [Trial(value=s.value or 0.0, best_hz=f.best_hz) for s, f in rows]
    return TrimLog(
        series=series,
        changed=last.changed,
        centre_hz=centre,
        last_pk=last.pk,
        rows=rows,
        advice=next_trial(trials, centre),
        notices=notices(
            [
                Tried(value=s.value or 0.0, best_vswr=f.best_vswr, vswr_centre=f.vswr_centre)
                for s, f in sorted(rows, key=lambda row: row[0].pk)
            ]
        ),
    )
