"""What is kept of a current trace: its states and its charge a message."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from inchmark.core.bench.current_trace import (
    SLEEP,
    StateFigures,
    meter_noise_a,
    read_trace,
)
from inchmark.formats.current_trace import read_current
from inchmark.formats.stored import Stored
from inchmark.shelf.models import CurrentTrace


@dataclass(frozen=True, slots=True, kw_only=True)
class TraceReading:
    """A trace taken apart: samples, length [s], states, messages, charge of one [C] with limits."""

    samples: int
    duration_s: float
    states: tuple[StateFigures, ...]
    messages: int
    charge_c: float
    charge_half_c: float | None


STORED = Stored(TraceReading, version=2)


def trace_reading(time_s: NDArray[np.float64], current_a: NDArray[np.float64]) -> TraceReading:
    """Return a trace taken apart.

    Raises
    ------
    ValueError
        The trace says nothing; the message says why.
    """
    trace = read_trace(time_s, current_a)
    if not trace.messages:
        raise ValueError("no transmission stands out: record sleep, a whole message, and sleep")
    if trace.state(SLEEP) is None:
        noise = 1e6 * meter_noise_a(current_a)
        raise ValueError(
            f"no sleep stands out, with a meter's noise of {noise:.2g} µA: record longer before and after the message, or set the meter to a lower range"
        )
    return TraceReading(
        samples=len(time_s),
        duration_s=trace.duration_s,
        states=trace.states,
        messages=trace.messages,
        charge_c=trace.charge_c,
        charge_half_c=trace.charge_half_width_c,
    )


def reading_of(trace: CurrentTrace) -> TraceReading:
    """Return what is kept of a trace, taken apart anew where it was kept in an older shape."""
    kept = STORED.load(trace.reading)
    if kept is None:
        samples = read_current(bytes(trace.data), shunt_ohm=trace.shunt_ohm)
        kept = trace_reading(samples.time_s, samples.current_a)
    return kept
