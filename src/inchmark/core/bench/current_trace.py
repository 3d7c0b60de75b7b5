"""A current trace taken apart: levels, the states they belong to, charge of a message, life."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from scipy.special import stdtrit

from inchmark.core.bench.hidden_levels import likeliest
from inchmark.core.checks import Floats
from inchmark.core.energy import Load, Phase

SLEEP, WAKE, TRANSMIT, RECEIVE = "sleep", "wake", "transmit", "receive window"
STATES = (SLEEP, WAKE, RECEIVE, TRANSMIT)
BINS_PER_DECADE = 20
LEAST_TIME_SHARE = 1e-5  # a level held for less is a passing edge
LEAST_PROMINENCE = 0.35  # decades of time share between a level and the valley beside it
LEAST_OWN = 20  # samples of a stretch that knows its mean
APART_DECADES = 0.2  # a factor of 1.6 between stretches of one level parts it
LEAST_RUN = 3  # samples; shorter runs are edges between two levels
SMALLEST_A = 1e-8  # no meter of a bench resolves less
NOISE_FLOOR = 6.0  # standard deviations of the meter's noise under which levels are one
MEDIAN_TO_SIGMA = 1.4826  # of a normal distribution's absolute deviations
FEW_UNDER, FAR_UNDER = 1e-3, 0.05  # of the samples; of the peak: outliers of a noisy level
BLOCK, BLOCK_SIGMAS = 50, 10.0  # samples averaged; how far such a mean may lie above sleep's own
NEGATIVE_SHARE = 1e-3  # of the largest current: what an offset may put under zero


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """A stretch in one state: begin and length [s], mean current [A], charge [C]."""

    state: str
    start_s: float
    duration_s: float
    current_a: float

    @property
    def charge_c(self) -> float:
        """Return the charge of the stretch [C]."""
        return self.duration_s * self.current_a


@dataclass(frozen=True, slots=True, kw_only=True)
class StateFigures:
    """All stretches of one state: how many, time [s], mean current [A]."""

    state: str
    runs: int
    time_s: float
    current_a: float

    @property
    def charge_c(self) -> float:
        """Return the charge [C]."""
        return self.time_s * self.current_a


@dataclass(frozen=True, slots=True, kw_only=True)
class Trace:
    """What a trace says: the stretches in order, the states, and its messages."""

    runs: tuple[Run, ...]
    states: tuple[StateFigures, ...]
    charges_c: tuple[float, ...]  # of each message, all but sleep
    duration_s: float
    edges_a: tuple[float, ...] = ()  # where a level ends and the next begins [A]
    names: tuple[str, ...] = ()  # of the levels, from the lowest
    means_a: tuple[float, ...] = ()
    hidden_a: float = 0.0  # what parts of sleep draw where it holds more than sleep [A]

    @property
    def messages(self) -> int:
        """Return how many messages the trace holds."""
        return len(self.charges_c)

    def state(self, name: str) -> StateFigures | None:
        """Return a state's figures, None where the trace has none of it."""
        return next((one for one in self.states if one.state == name), None)

    @property
    def sleep_a(self) -> float:
        """Return the sleep current [A], 0 where the trace shows no sleep."""
        found = self.state(SLEEP)
        return found.current_a if found else 0.0

    @property
    def charge_c(self) -> float:
        """Return the mean charge of a message [C]."""
        return float(np.mean(self.charges_c)) if self.charges_c else 0.0

    @property
    def charge_half_width_c(self) -> float | None:
        """Return half the 95 % t interval of that mean [C]; None with one message."""
        n = len(self.charges_c)
        if n < 2:
            return None
        spread = float(np.std(self.charges_c, ddof=1))
        return float(stdtrit(n - 1, 0.975)) * spread / float(np.sqrt(n))

    def load(self, period_s: float) -> Load:
        """Return the load of a message every period [s]: its active phases, sleep for the rest."""
        count = max(self.messages, 1)
        active = [one for one in self.states if one.state != SLEEP]
        phases = [Phase(duration_s=s.time_s / count, current_a=s.current_a) for s in active]
        return Load(phases=phases, sleep_current_a=self.sleep_a, period_s=period_s)


@dataclass(frozen=True, slots=True, kw_only=True)
class Corrections:
    """What a person said of a trace: the meter's offset [A], boundaries of levels [A], their names."""

    offset_a: float = 0.0
    edges_a: tuple[float, ...] = ()
    names: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        """Refuse boundaries that do not ascend, names that are no states or too few."""
        if any(b <= a for a, b in itertools.pairwise((0.0, *self.edges_a))):
            raise ValueError("the boundaries between levels must ascend from above 0 A")
        if unknown := [one for one in self.names if one not in STATES]:
            raise ValueError(f"“{unknown[0]}” is no state; there are {', '.join(STATES)}")


def read_trace(
    time_s: Floats,
    current_a: Floats,
    known_a: Mapping[str, float] | None = None,
    corrections: Corrections | None = None,
) -> Trace:
    """Return a trace taken apart.

    Levels are the peaks of the time spent at each current on a logarithmic scale. With `known_a`, a
    datasheet's current by state [A], a level takes the nearest state's name. Without, the lowest
    level is sleep, the highest transmit; of those between a transmission and the sleep after it the
    highest is the receive window, and the rest is wake.

    Raises
    ------
    ValueError
        Fewer than 10 samples, times that do not ascend, a current well under zero, or one level.
    """
    said = corrections or Corrections()
    current_a = current_a - said.offset_a
    noise = _checked_noise_a(time_s, current_a)
    held = np.append(np.diff(time_s), np.median(np.diff(time_s)))
    floor = max(SMALLEST_A, NOISE_FLOOR * noise)
    edges = np.log10(said.edges_a) if said.edges_a else _boundaries(current_a, held, floor)
    if len(edges) == 0:
        raise ValueError("the trace stays at one level: record a whole message with sleep around")
    level = np.searchsorted(edges, np.log10(np.maximum(current_a, floor)))
    pieces = _pieces(likeliest(current_a, level, len(edges) + 1, noise))
    if not said.edges_a:
        pieces, edges = _parted(pieces, edges, current_a, held)
    level = np.repeat([k for _, _, k in pieces], [end - begin for begin, end, _ in pieces])
    means = [
        float(np.average(current_a[level == k], weights=held[level == k]))
        if np.any(level == k)
        else np.nan
        for k in range(len(edges) + 1)
    ]
    names = _named(means, pieces, known_a or {})
    if said.names:
        if len(said.names) != len(names):
            raise ValueError(f"{len(said.names)} names are given for {len(names)} levels")
        names = list(said.names)
    runs = _runs(pieces, names, time_s, current_a, held)
    return Trace(
        runs=tuple(runs),
        states=tuple(_states(runs)),
        charges_c=tuple(_messages(runs)),
        duration_s=float(held.sum()),
        edges_a=tuple(10 ** float(edge) for edge in edges),
        names=tuple(names),
        means_a=tuple(0.0 if np.isnan(mean) else mean for mean in means),
        hidden_a=_hidden_a(current_a[level == 0], noise),
    )


def _hidden_a(sleep_a: Floats, noise_a: float) -> float:
    """Return what parts of sleep draw [A] where noise hides another state in it, else 0.

    Noise falls with the root of the samples averaged, a state does not. Where noise is no more than
    sleep's own current nothing that costs a battery hides in it.
    """
    if len(sleep_a) < 2 * BLOCK:
        return 0.0
    blocks = sleep_a[: len(sleep_a) // BLOCK * BLOCK].reshape(-1, BLOCK).mean(axis=1)
    usual = float(np.median(blocks))
    high = blocks[blocks > usual + BLOCK_SIGMAS * noise_a / np.sqrt(BLOCK)]
    return float(np.median(high)) if noise_a > max(usual, SMALLEST_A) and len(high) > 1 else 0.0


def _checked_noise_a(time_s: Floats, current_a: Floats) -> float:
    """Return the meter's noise [A] of samples that can be a trace; raise ValueError for others."""
    if len(time_s) < 10:
        raise ValueError("a trace needs 10 samples or more")
    if not (np.all(np.isfinite(time_s)) and np.all(np.isfinite(current_a))):
        raise ValueError("a trace must hold numbers only")
    backwards = np.flatnonzero(np.diff(time_s) <= 0)
    if len(backwards):
        raise ValueError(f"time does not ascend after sample {backwards[0] + 1}")
    peak = float(np.max(current_a))
    if peak <= 0:
        raise ValueError("no current flows in the trace")
    noise = meter_noise_a(current_a)
    allowed = max(NEGATIVE_SHARE * peak, NOISE_FLOOR * noise)
    under = np.flatnonzero(current_a < -allowed)
    if len(under) > FEW_UNDER * len(current_a) or np.min(current_a) < -FAR_UNDER * peak:
        found = 1e3 * current_a[under[0]]
        raise ValueError(
            f"sample {under[0] + 1} is {found:.4g} mA, under zero: turn the probe round, or say what the meter reads with nothing connected"
        )
    return noise


def meter_noise_a(current_a: Floats) -> float:
    """Return the standard deviation of the meter's own noise [A], from sample to sample.

    The median of the steps is that of the state held longest, sleep, whatever the others do.
    """
    steps = np.abs(np.diff(current_a))
    return float(np.median(steps)) * MEDIAN_TO_SIGMA / float(np.sqrt(2))


def _boundaries(current_a: Floats, held: Floats, floor_a: float) -> Floats:
    """Return where one level ends and the next begins [log10 A], in the valleys between peaks.

    What lies within the meter's noise is one level: on a logarithmic scale noise about a sleep
    current would spread over decades and leave no level at all.
    """
    logs = np.log10(np.maximum(current_a, floor_a))
    low, high = float(logs.min()) - 0.2, float(logs.max()) + 0.2
    bins = max(int((high - low) * BINS_PER_DECADE), 8)
    spent, edges = np.histogram(logs, bins=bins, range=(low, high), weights=held)
    share = ndimage.gaussian_filter1d(spent / spent.sum(), 1.0)
    # heights on a log scale too: a transmission takes a thousandth of the time and is a level
    heights = np.log10(share + LEAST_TIME_SHARE)
    outside = [heights.min() - 1]
    walled = np.concatenate([outside, heights, outside])  # so that a peak may stand at either end
    from scipy import signal  # half a second; only traces need it

    peaks = signal.find_peaks(walled, prominence=LEAST_PROMINENCE)[0] - 1
    valleys = [a + int(np.argmin(share[a : b + 1])) for a, b in itertools.pairwise(peaks)]
    middles: Floats = (edges[:-1] + edges[1:]) / 2
    return middles[valleys] if valleys else np.array([])


def _pieces(level: NDArray[np.int64]) -> list[tuple[int, int, int]]:
    """Return (begin, end, level) of each stretch; one shorter than an edge joins the last."""
    cuts = np.concatenate([[0], np.flatnonzero(np.diff(level)) + 1, [len(level)]])
    pieces: list[tuple[int, int, int]] = []
    for begin, end in itertools.pairwise(cuts):
        k = int(level[begin])
        if pieces and (end - begin < LEAST_RUN or pieces[-1][2] == k):
            pieces[-1] = (pieces[-1][0], int(end), pieces[-1][2])
        else:
            pieces.append((int(begin), int(end), k))
    return pieces


def _parted(
    pieces: Sequence[tuple[int, int, int]], edges: Floats, current_a: Floats, held: Floats
) -> tuple[list[tuple[int, int, int]], Floats]:
    """Return pieces and boundaries with levels parted whose stretches lie far from each other.

    A short state beside a longer one makes no peak of its own in a noisy trace; its stretches still
    have a mean of their own. Only stretches long enough to know theirs part a level.
    """
    means = np.array([
        max(float(np.average(current_a[a:b], weights=held[a:b])), SMALLEST_A) for a, b, _ in pieces
    ])  # fmt: skip
    logs = np.log10(means)
    found = list(edges)
    for k in range(1, len(edges) + 1):  # the lowest holds what a meter's noise hides
        own = np.sort([
            log for log, (a, b, level) in zip(logs, pieces, strict=True)
            if level == k and b - a >= LEAST_OWN
        ])  # fmt: skip
        gaps = np.flatnonzero(np.diff(own) > APART_DECADES)
        found += [float((own[i] + own[i + 1]) / 2) for i in gaps]
    if len(found) == len(edges):
        return list(pieces), edges
    ends = np.sort(found)
    return [
        (a, b, int(np.searchsorted(ends, log))) for log, (a, b, _) in zip(logs, pieces, strict=True)
    ], ends


def _named(
    means: Sequence[float], pieces: Sequence[tuple[int, int, int]], known_a: Mapping[str, float]
) -> list[str]:
    levels = range(len(means))
    if known_a:
        states = list(known_a)
        logs = np.log10([max(known_a[name], SMALLEST_A) for name in states])
        own = [np.log10(max(mean, SMALLEST_A)) if np.isfinite(mean) else 0.0 for mean in means]
        return [states[int(np.argmin(np.abs(logs - one)))] for one in own]
    top = len(means) - 1
    window = max(_levels_after(pieces, top), default=-1)
    return [
        SLEEP if k == 0 else TRANSMIT if k == top else RECEIVE if k == window else WAKE
        for k in levels
    ]


def _levels_after(pieces: Sequence[tuple[int, int, int]], top: int) -> set[int]:
    """Return the levels between a transmission and the sleep after it."""
    found: set[int] = set()
    after = False
    for _, _, k in pieces:
        after = k == top or (after and k != 0)
        if after and k != top:
            found.add(k)
    return found


def _runs(
    pieces: Sequence[tuple[int, int, int]],
    names: Sequence[str],
    time_s: Floats,
    current_a: Floats,
    held: Floats,
) -> list[Run]:
    runs: list[Run] = []
    for begin, end, k in pieces:
        state, duration = names[k], float(held[begin:end].sum())
        mean = float(np.average(current_a[begin:end], weights=held[begin:end]))
        if runs and runs[-1].state == state:
            last = runs.pop()
            whole = last.duration_s + duration
            mean = (last.charge_c + mean * duration) / whole
            runs.append(Run(state=state, start_s=last.start_s, duration_s=whole, current_a=mean))
        else:
            runs.append(
                Run(state=state, start_s=float(time_s[begin]), duration_s=duration, current_a=mean)
            )
    return runs


def _states(runs: Sequence[Run]) -> list[StateFigures]:
    found = []
    for state in STATES:
        own = [run for run in runs if run.state == state]
        if own:
            time = sum(run.duration_s for run in own)
            mean = max(sum(run.charge_c for run in own) / time, 0.0)
            found.append(StateFigures(state=state, runs=len(own), time_s=time, current_a=mean))
    return found


def _messages(runs: Sequence[Run]) -> list[float]:
    """Return the charge of each message: from one sleep to the next, with a transmission in it."""
    charges, charge, sent = [], 0.0, False
    for run in [*runs, Run(state=SLEEP, start_s=0.0, duration_s=0.0, current_a=0.0)]:
        if run.state == SLEEP:
            if sent:
                charges.append(charge)
            charge, sent = 0.0, False
        else:
            charge += run.charge_c
            sent = sent or run.state == TRANSMIT
    return charges
