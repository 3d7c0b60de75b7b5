"""Side notes: judgements the program makes, each with its reason and where its evidence is."""

from __future__ import annotations

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.notes import comparisons, counts, ranges, stops
from inchmark.core.reading.result import CAUTION, FACT, GOOD, Note

MAKERS = (*ranges.MAKERS, *counts.MAKERS, *stops.MAKERS, *comparisons.MAKERS)
ORDER = (CAUTION, FACT, GOOD)


def notes_of(analysis: Analysis) -> list[Note]:
    """Return the notes on an analysis, cautions first."""
    found = [note for make in MAKERS for note in make(analysis)]
    return sorted(found, key=lambda note: ORDER.index(note.kind))
