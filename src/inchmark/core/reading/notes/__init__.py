"""Side notes: judgements the program makes, each with its reason and where its evidence is."""

from __future__ import annotations

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.notes import (
    comparisons,
    conditions,
    counts,
    disturbed,
    laws,
    model,
    ranges,
)
from inchmark.core.reading.notes import stops as stops_
from inchmark.core.reading.result import CAUTION, FACT, GOOD, Note

MAKERS = (
    *ranges.MAKERS,
    *conditions.MAKERS,
    *comparisons.MAKERS,
    *disturbed.MAKERS,
    *model.MAKERS,
    *stops_.MAKERS,
    *laws.MAKERS,
    *counts.MAKERS,
)  # in the order of what they change in the answer
ORDER = (CAUTION, FACT, GOOD)


def notes_of(analysis: Analysis) -> list[Note]:
    """Return the notes on an analysis: cautions first, then by what they change in the answer."""
    found = [note for make in MAKERS for note in make(analysis)]
    return sorted(found, key=lambda note: ORDER.index(note.kind))
