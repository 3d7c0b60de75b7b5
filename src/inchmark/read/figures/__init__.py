"""What Read shows: the table by stop and rig, side notes, and every figure down to its frames."""

from inchmark.read.figures.visits import (
    VISIT_COLUMNS,
    Shown,
    answer,
    choices,
    figures_of,
    folds,
    frame_rows,
    notes,
    table,
    visit_table_rows,
)

__all__ = [
    "VISIT_COLUMNS",
    "Shown",
    "answer",
    "choices",
    "figures_of",
    "folds",
    "frame_rows",
    "notes",
    "table",
    "visit_table_rows",
]
