"""One visit: its frames read once, and the few figures everything later is computed from.

A visit is one rig at one stop, carried one way, heard by one receiver in one direction. After
this file nobody needs its frames again: counts, moments and a histogram carry the likelihood.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, fields, replace
from typing import TypedDict

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats
from inchmark.core.decibels import signal_from_signal_plus_noise_dbm
from inchmark.core.reception.bursts import LossRuns, loss_runs
from inchmark.core.reception.changes import Stretch, stretch_of
from inchmark.core.reception.level_runs import NO_LEVELS, LevelRuns, level_runs
from inchmark.core.reception.paired import PairedCounts
from inchmark.core.reception.passes import (
    Counting,
    Pass,
    VisitFrames,
    VisitKey,
    copied_lines,
    read_passes,
)
from inchmark.core.reception.position import Position, position_of
from inchmark.core.reception.sequence import beacon_interval_s
from inchmark.core.reception.strip import StripMark, strip_marks, strip_of_losses

__all__ = ["Counting", "VisitFrames", "VisitKey", "VisitSummary", "summarise_visit"]

LEVEL_BIN_DB = 0.5  # the histogram enters through ln Phi only, which is flat on this scale
SATURATION_FRAMES, SATURATION_SPREAD_DB, SATURATION_SLOPE = 10, 1.0, 0.5


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
    strip_marks: tuple[StripMark, ...] = ()  # cells with a frame that came in a way of its own
    by_snr: tuple[tuple[int, int, float], ...] = ()  # S/N to 1 dB, frames with it, their mean level
    level_runs: LevelRuns = NO_LEVELS
    noise_derived: bool = False  # from RSSI and S/N, for no noise was logged
    relayed: int = 0  # lines that came through a relay: no evidence of the direct link
    change: VisitChange | None = None  # a stretch that differs from the rest
    heard_map: tuple[tuple[int, int, str], ...] = ()  # passes: first counter, frames, bits as hex
    position: Position | None = None  # of the frames that bear one
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
    logged, again = frames, copied_lines(frames)
    frames = frames.take(np.setdiff1d(np.arange(len(frames.seq)), again)) if len(again) else frames
    copies = int(np.count_nonzero(logged.heard[again]))
    through_relay = np.zeros(len(frames.seq), dtype=bool)
    if frames.relayed is not None:
        through_relay = frames.relayed & frames.heard
    frames = frames.direct()
    passes = read_passes(frames, counting or Counting())
    one = _in_order_sent(frames, passes, includes_noise=rssi_includes_noise)
    times = frames.time_s[np.isfinite(frames.time_s)]
    whole = _figures(one)
    found = stretch_of(one.loss, one.noise)
    change = None
    if found is not None and np.any(found[1]):
        change = VisitChange(stretch=found[0], rest=_figures(one.take(found[1])))
    kept = sum(len(part.first_heard) for part in passes)
    return replace(
        whole,
        change=change,
        heard_map=tuple(_heard_maps(frames, passes)),
        strip=strip_of_losses(one.loss),
        strip_marks=strip_marks(
            passes, relayed=through_relay, copied=_repeated(frames, logged, again)
        ),
        by_snr=_by_snr(one.level, one.snr),
        relayed=int(np.count_nonzero(through_relay)),
        position=position_of(frames.lat_deg, frames.lon_deg),
        passes=len(passes),
        wraps=sum(part.sequence.wraps for part in passes),
        resets=sum(part.sequence.resets for part in passes),
        duplicates=copies + int(np.count_nonzero(frames.heard)) - kept,
        out_of_order=sum(part.sequence.out_of_order for part in passes),
        silent_tail=sum(part.silent_tail for part in passes),
        first_time_s=float(times.min()) if len(times) else None,
        last_time_s=float(times.max()) if len(times) else None,
        interval_s=beacon_interval_s(frames.seq, frames.time_s),
    )


def _repeated(
    frames: VisitFrames, logged: VisitFrames, again: NDArray[np.intp]
) -> NDArray[np.bool_]:
    """Tell which lines some left-out line said once more."""
    if not len(again):
        return np.zeros(len(frames.seq), dtype=bool)
    said = {(int(logged.seq[i]), float(logged.time_s[i])) for i in again}
    pairs = zip(frames.seq.tolist(), frames.time_s.tolist(), strict=True)
    return np.array([pair in said for pair in pairs])


def _by_snr(level: Floats, snr: Floats) -> tuple[tuple[int, int, float], ...]:
    """Return the mean level of frames by their S/N, which counts in dB by a scale of its own."""
    known = np.isfinite(level) & np.isfinite(snr)
    if not np.any(known):
        return ()
    steps, of = np.unique(np.round(snr[known]).astype(int), return_inverse=True)
    frames = np.bincount(of)
    means = np.bincount(of, level[known]) / frames
    found = zip(steps.tolist(), frames.tolist(), means.tolist(), strict=True)
    return tuple((step, count, round(mean, 3)) for step, count, mean in found)


def _heard_maps(frames: VisitFrames, passes: Sequence[Pass]) -> Iterator[tuple[int, int, str]]:
    """Yield which counters of a pass were heard, to pair them with another receiver's.

    A counter that wrapped or began anew names no frame for certain.
    """
    for one in passes:
        if one.sequence.resets or one.sequence.wraps or not len(one.lines):
            continue
        first = int(frames.seq[one.lines[0]] - one.sequence.index[0])
        heard = np.packbits(one.loss == 0).tobytes().hex()
        yield first, len(one.loss), heard


def paired_frames(first: VisitSummary, second: VisitSummary) -> PairedCounts | None:
    """Return how two receivers heard the same transmissions, told by their counters; None without.

    Frames between the first and the last counter that both logs reach count.
    """
    one, other = _heard_by_counter(first), _heard_by_counter(second)
    if not one or not other:
        return None
    low, high = max(min(one), min(other)), min(max(one), max(other))
    both = [n for n in range(low, high + 1) if n in one and n in other]
    if not both:
        return None
    cells = [(one[n], other[n]) for n in both]
    return PairedCounts(
        both=cells.count((True, True)),
        first=cells.count((True, False)),
        second=cells.count((False, True)),
        neither=cells.count((False, False)),
    )


def _heard_by_counter(summary: VisitSummary) -> dict[int, bool]:
    found: dict[int, bool] = {}
    for first, frames, bits in summary.heard_map:
        heard = np.unpackbits(np.frombuffer(bytes.fromhex(bits), dtype=np.uint8))[:frames]
        for i, one in enumerate(heard.tolist()):
            found[first + i] = bool(one) or found.get(first + i, False)
    return found


@dataclass(frozen=True, slots=True)
class _Sent:
    """The frames of a visit in order sent; NaN where nothing was heard or read."""

    loss: Floats
    rssi: Floats
    level: Floats
    snr: Floats
    noise: Floats

    def take(self, frames: NDArray[np.bool_]) -> _Sent:
        return _Sent(*(getattr(self, f.name)[frames] for f in fields(self)))


def _in_order_sent(frames: VisitFrames, passes: Sequence[Pass], *, includes_noise: bool) -> _Sent:
    loss = np.concatenate([one.loss for one in passes])
    rssi, level, snr, noise = (np.full(len(loss), np.nan) for _ in range(4))
    level_of_line = _level(frames.rssi_dbm, frames.snr_db, includes_noise=includes_noise)
    start = 0
    for one in passes:
        place = np.full(len(frames.seq), -1)
        place[one.lines] = start + one.sequence.index
        read = one.lines[np.isfinite(frames.noise_dbm[one.lines])]
        noise[place[read]] = frames.noise_dbm[read]
        told = one.first_heard
        rssi[place[told]] = frames.rssi_dbm[told]
        level[place[told]] = level_of_line[told]
        snr[place[told]] = frames.snr_db[told]
        start += len(one.loss)
    return _Sent(loss, rssi, level, snr, noise)


def _figures(one: _Sent) -> VisitSummary:
    """Return the figures that come from the frames themselves."""
    with_level = np.isfinite(one.rssi)
    noise = one.noise[np.isfinite(one.noise)]
    derived = not len(noise)
    if derived:
        noise = _noise_from_snr(one)
    return VisitSummary(
        sent=len(one.loss),
        heard=int(len(one.loss) - one.loss.sum()),
        **_level_figures(one.level[with_level], one.rssi[with_level]),
        noise_mean_dbm=_mean(noise),
        noise_readings=len(noise),
        noise_derived=derived and len(noise) > 0,
        runs=loss_runs(one.loss),
        level_runs=level_runs(one.level),
        strip=(),
    )


def _noise_from_snr(one: _Sent) -> Floats:
    """Return level less S/N of the heard frames [dBm]; none where S/N has stopped rising.

    Many receivers report no more than some 10 dB; then level less S/N is no noise but the level.
    """
    known = np.isfinite(one.level) & np.isfinite(one.snr)
    level, snr = one.level[known], one.snr[known]
    if len(level) >= SATURATION_FRAMES and np.std(level) > SATURATION_SPREAD_DB:
        slope = float(np.polyfit(level, level - snr, 1)[0])
        if slope > SATURATION_SLOPE:
            return np.empty(0)
    found: Floats = level - snr
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitChange:
    """A stretch of a visit that differs from the rest, and the figures of the rest."""

    stretch: Stretch
    rest: VisitSummary


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
        strip=strip_of_losses(loss),
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
