"""What sweeps say, and what to try next."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby

from inchmark.core.antenna.trim import NextTrial, Trial, next_trial
from inchmark.shelf.adapters.sweeps import core_sweep
from inchmark.shelf.models import Sweep

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
class TrimLog:
    """The sweeps of one series in the order of the value, and the value to try next."""

    series: str
    changed: str
    centre_hz: float
    last_pk: int
    rows: list[tuple[Sweep, SweepFigures]]
    advice: NextTrial | None


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
    )
