"""One visit: its frames read once, and the few figures everything later is computed from.

A visit is one rig at one stop, carried one way, heard by one receiver in one direction. After
this file nobody needs its frames again: counts, moments and a histogram carry the likelihood.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TypedDict

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.decibels import signal_from_signal_plus_noise_dbm
from inchmark.core.reception.bursts import LossRuns, loss_runs
from inchmark.core.reception.passes import (
    Counting,
    VisitFrames,
    VisitKey,
    read_passes,
    without_copies,
)
from inchmark.core.reception.sequence import beacon_interval_s

__all__ = ["Counting", "VisitFrames", "VisitKey", "VisitSummary", "summarise_visit"]

STRIP_CELLS = 120  # cells of the frame strip; longer visits are gathered into as many
LEVEL_BIN_DB = 0.5  # the histogram enters through ln Phi only, which is flat on this scale
NOISE_SIGN_SNR_DB = 3.0  # below this S/N the two readings of RSSI come apart


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitSummary:
    """The figures of one visit; levels [dBm], `level_*` with noise taken off where it was in."""

    sent: int
    heard: int
    heard_with_level: int
    rssi_mean_dbm: float | None
    level_mean_dbm: float | None
    level_squares: float  # sum of squares about the mean [dB^2]
    level_counts: tuple[tuple[float, int], ...]
    rssi_counts: tuple[tuple[float, int], ...]
    noise_mean_dbm: float | None
    noise_readings: int
    runs: LossRuns
    strip: tuple[tuple[int, int], ...]  # (sent, heard) per cell, in order sent
    passes: int = 1
    wraps: int = 0
    resets: int = 0
    duplicates: int = 0
    out_of_order: int = 0
    silent_tail: int = 0  # frames known to be sent before the first or after the last logged one
    first_time_s: float | None = None
    last_time_s: float | None = None
    interval_s: float | None = field(default=None)

    @property
    def lost(self) -> int:
        """Return the frames sent and not heard."""
        return self.sent - self.heard


def summarise_visit(
    frames: VisitFrames,
    *,
    rssi_includes_noise: bool = False,
    counting: Counting | None = None,
) -> VisitSummary:
    """Return the figures of one visit.

    Parameters
    ----------
    frames
        Logged lines, at least one; a line may say "not heard".
    rssi_includes_noise
        Take the noise off every reading that comes with an S/N.
    counting
        What is known of how frames were sent.
    """
    frames, copies = without_copies(frames)
    passes = read_passes(frames, counting or Counting())
    loss = np.concatenate([one.loss for one in passes])
    kept = np.concatenate([one.first_heard for one in passes])
    rssi = frames.rssi_dbm[kept]
    level = _level(rssi, frames.snr_db[kept], includes_noise=rssi_includes_noise)
    level, rssi = level[np.isfinite(rssi)], rssi[np.isfinite(rssi)]
    noise = frames.noise_dbm[np.isfinite(frames.noise_dbm)]
    times = frames.time_s[np.isfinite(frames.time_s)]
    return VisitSummary(
        sent=len(loss),
        heard=int(len(loss) - loss.sum()),
        **_level_figures(level, rssi),
        noise_mean_dbm=_mean(noise),
        noise_readings=len(noise),
        runs=loss_runs(loss),
        strip=_strip(loss),
        passes=len(passes),
        wraps=sum(one.sequence.wraps for one in passes),
        resets=sum(one.sequence.resets for one in passes),
        duplicates=copies + int(np.count_nonzero(frames.heard)) - len(kept),
        out_of_order=sum(one.sequence.out_of_order for one in passes),
        silent_tail=sum(one.silent_tail for one in passes),
        first_time_s=float(times.min()) if len(times) else None,
        last_time_s=float(times.max()) if len(times) else None,
        interval_s=beacon_interval_s(frames.seq, frames.time_s),
    )


def silent_visit(sent: int) -> VisitSummary:
    """Return the figures of a visit at which `sent` frames went out and none was heard."""
    if sent < 1:
        raise ValueError(f"sent={sent!r} must be at least 1")
    loss = np.ones(sent)
    return VisitSummary(
        sent=sent,
        heard=0,
        heard_with_level=0,
        rssi_mean_dbm=None,
        level_mean_dbm=None,
        level_squares=0.0,
        level_counts=(),
        rssi_counts=(),
        noise_mean_dbm=None,
        noise_readings=0,
        runs=loss_runs(loss),
        strip=_strip(loss),
        silent_tail=sent,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class HandCount:
    """What somebody wrote down of one pass: frames sent and heard, a reading [dBm] or none."""

    sent: int
    heard: int
    rssi_dbm: float | None = None

    def __post_init__(self) -> None:
        """Refuse counts that cannot be."""
        if not 0 <= self.heard <= self.sent or self.sent < 1:
            raise ValueError(f"heard={self.heard!r} must be from 0 to sent={self.sent!r}")


def counted_visit(counts: Sequence[HandCount]) -> VisitSummary:
    """Return the figures of a visit known from counts alone.

    The order of losses is unknown, so it tells nothing of runs; a reading written beside a count is
    one reading, however many frames were heard.
    """
    levels = np.array([c.rssi_dbm for c in counts if c.rssi_dbm is not None and c.heard])
    sent, heard = sum(c.sent for c in counts), sum(c.heard for c in counts)
    return VisitSummary(
        sent=sent,
        heard=heard,
        **_level_figures(levels, levels),
        noise_mean_dbm=None,
        noise_readings=0,
        runs=LossRuns(length=0, runs=0, products=np.empty(0)),
        strip=tuple((c.sent, c.heard) for c in counts),
        passes=len(counts),
    )


def rssi_holds_noise(rssi_dbm: Floats, snr_db: Floats, noise_dbm: Floats) -> bool:
    """Tell from readings near the noise whether RSSI is signal plus noise.

    A reading of the signal alone lies S/N above the noise; one of both together lies
    10 lg(1 + 10^(snr/10)) above it, never below. Without noise readings: S/N below -3 dB with
    RSSI that stops falling while S/N goes on says the same.
    """
    known = np.isfinite(rssi_dbm) & np.isfinite(snr_db)
    weak = known & np.isfinite(noise_dbm) & (snr_db < NOISE_SIGN_SNR_DB)
    if np.count_nonzero(weak) >= 5:
        above = rssi_dbm[weak] - noise_dbm[weak]
        alone = np.mean(np.abs(above - snr_db[weak]))
        together = np.mean(np.abs(above - 10 * np.log10(1 + np.power(10, snr_db[weak] / 10))))
        return bool(together < alone)
    below = known & (snr_db < -NOISE_SIGN_SNR_DB)
    if np.count_nonzero(below) < 20 or np.ptp(snr_db[below]) < 3:
        return False
    slope = np.polyfit(snr_db[below], rssi_dbm[below], 1)[0]
    return bool(slope < 0.65)  # signal alone falls dB for dB (1.0), both together by 0.33 or less


def _level(rssi: Floats, snr: Floats, *, includes_noise: bool) -> Floats:
    if not includes_noise:
        return rssi
    known = np.isfinite(rssi) & np.isfinite(snr)
    level = rssi.copy()
    level[known] = signal_from_signal_plus_noise_dbm(rssi[known], snr[known])
    return level


class _LevelFigures(TypedDict):
    heard_with_level: int
    rssi_mean_dbm: float | None
    level_mean_dbm: float | None
    level_squares: float
    level_counts: tuple[tuple[float, int], ...]
    rssi_counts: tuple[tuple[float, int], ...]


def _level_figures(level: Floats, rssi: Floats) -> _LevelFigures:
    return {
        "heard_with_level": len(level),
        "rssi_mean_dbm": _mean(rssi),
        "level_mean_dbm": _mean(level),
        "level_squares": _squares(level),
        "level_counts": _counts(np.round(level / LEVEL_BIN_DB) * LEVEL_BIN_DB),
        "rssi_counts": _counts(rssi),
    }


def _mean(values: Floats) -> float | None:
    return float(values.mean()) if len(values) else None


def _squares(values: Floats) -> float:
    return float(np.sum((values - values.mean()) ** 2)) if len(values) else 0.0


def _counts(values: Floats) -> tuple[tuple[float, int], ...]:
    levels, counts = np.unique(values, return_counts=True)
    return tuple((float(a), int(b)) for a, b in zip(levels, counts, strict=True))


def _strip(loss: Floats) -> tuple[tuple[int, int], ...]:
    edges = np.linspace(0, len(loss), min(len(loss), STRIP_CELLS) + 1).astype(int)
    lost = np.add.reduceat(loss, edges[:-1]).astype(int)
    return tuple(
        (int(size), int(size - gone)) for size, gone in zip(np.diff(edges), lost, strict=True)
    )
