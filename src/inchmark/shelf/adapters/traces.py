"""What is kept of a current trace: its states, its charge a message, and how its supply sagged."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.bench.current_trace import (
    SLEEP,
    Corrections,
    StateFigures,
    meter_noise_a,
    read_trace,
)
from inchmark.formats.current_trace import CurrentFile, read_current
from inchmark.formats.stored import Stored
from inchmark.shelf.models import CurrentTrace

SHARES = (5.0, 50.0)  # percentiles of the voltage told as lowest and as usual


@dataclass(frozen=True, slots=True, kw_only=True)
class TraceReading:
    """A trace taken apart: samples, length [s], states, messages, charge of one [C] with limits.

    Levels from the lowest with their boundaries [A], means [A] and names; of a file with voltages the
    usual supply and the lowest while much is drawn [V], and the inner resistance that shows [Ohm]. What
    parts of sleep draw where noise hides another state in it, else 0 [A].
    """

    samples: int
    duration_s: float
    states: tuple[StateFigures, ...]
    messages: int
    charge_c: float
    charge_half_c: float | None
    edges_a: tuple[float, ...] = ()
    names: tuple[str, ...] = ()
    means_a: tuple[float, ...] = ()
    usual_v: float | None = None
    lowest_v: float | None = None
    inner_ohm: float | None = None
    hidden_a: float = 0.0


STORED = Stored(TraceReading, version=4)


def corrections_of(trace: CurrentTrace) -> Corrections:
    """Return what was said of a trace; raise ValueError where it cannot be."""
    said = trace.corrections
    return Corrections(
        offset_a=trace.offset_a,
        edges_a=tuple(float(one) for one in said.get("edges_a", ())),
        names=tuple(said.get("names", ())),
    )


def trace_reading(file: CurrentFile, corrections: Corrections) -> TraceReading:
    """Return a trace taken apart.

    Raises
    ------
    ValueError
        The trace says nothing; the message says why.
    """
    trace = read_trace(file.time_s, file.current_a, corrections=corrections)
    if not trace.messages:
        raise ValueError("no transmission stands out: record sleep, a whole message, and sleep")
    if trace.state(SLEEP) is None:
        noise = 1e6 * meter_noise_a(file.current_a)
        raise ValueError(
            f"no sleep stands out, with a meter's noise of {noise:.2g} µA: record longer before and after the message, or set the meter to a lower range"
        )
    usual, lowest, inner = _sag(file)
    return TraceReading(
        samples=len(file.time_s),
        duration_s=trace.duration_s,
        states=trace.states,
        messages=trace.messages,
        charge_c=trace.charge_c,
        charge_half_c=trace.charge_half_width_c,
        edges_a=trace.edges_a,
        names=trace.names,
        means_a=trace.means_a,
        usual_v=usual,
        lowest_v=lowest,
        inner_ohm=inner,
        hidden_a=trace.hidden_a,
    )


def _sag(file: CurrentFile) -> tuple[float | None, float | None, float | None]:
    """Return the supply at rest, its lowest while most is drawn, and the resistance between [V, V, Ohm]."""
    if file.supply_v is None:
        return None, None, None
    high = file.current_a >= np.percentile(file.current_a, 95)
    rest = file.current_a <= np.median(file.current_a)
    usual = float(np.median(file.supply_v[rest]))
    lowest = float(np.percentile(file.supply_v[high], SHARES[0]))
    drawn = float(np.median(file.current_a[high]) - np.median(file.current_a[rest]))
    inner = (usual - lowest) / drawn if drawn > 0 and usual > lowest else None
    return usual, lowest, inner


def reading_of(trace: CurrentTrace) -> TraceReading:
    """Return what is kept of a trace, taken apart anew where it was kept in an older shape."""
    kept = STORED.load(trace.reading)
    if kept is None:
        samples = read_current(bytes(trace.data), shunt_ohm=trace.shunt_ohm)
        kept = trace_reading(samples, corrections_of(trace))
    return kept
