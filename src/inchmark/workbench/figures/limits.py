"""What a band and region allow, row by row, as the table that ships with the app has it."""

from __future__ import annotations

from inchmark.core.limits import Limit
from inchmark.core.wording import level
from inchmark.formats.limits import limits
from inchmark.workbench.figures.answers import Answers, Line
from inchmark.workbench.figures.decibels import watts

ASK = "The table helps to look and decides nothing: the rules of the place count, and licensed people decide."


def limit_answers(*, frequency_hz: float, region: str) -> Answers:
    """Return the rows of a region whose band holds a frequency [Hz]."""
    rows = [one for one in limits() if one.region == region and one.low_hz <= frequency_hz <= one.high_hz]  # fmt: skip
    if not rows:
        return Answers(
            lines=[],
            says=[f"No row of the table holds {frequency_hz / 1e6:g} MHz in this region. That is no leave to send there.", ASK],
        )  # fmt: skip
    return Answers(lines=[_line(one) for one in rows], says=[ASK])


def _line(row: Limit) -> Line:
    duty = "no duty cycle" if row.duty_cycle_percent is None else f"{row.duty_cycle_percent:g} %"
    known = ", from memory" if row.from_memory else ""
    return Line(
        what=row.band,
        value=f"{level(row.power_dbm)} {row.kind} ({watts(row.power_dbm)}), {duty}",
        formula=row.access,
        source=f"{row.document}, {row.date}{known}",
    )
