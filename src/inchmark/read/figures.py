"""What Read shows: the table by stop and rig, side notes, and every figure down to its frames."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from django.urls import reverse

from inchmark.core.alike import alike
from inchmark.core.interval import Estimate
from inchmark.core.reading.answer import Answer, answer_of
from inchmark.core.reading.result import Note, Reading, VisitReading
from inchmark.formats.frame_log.writer import Cell
from inchmark.studies.models import Study
from inchmark.studies.side_notes import SideNote, with_decisions
from inchmark.walk.models import Frame, Visit

NOT_WALKED = Answer(sentence="Nothing has been walked yet.")
LONGEST_GAP = 10_000  # frames; more missing between two lines is a restart, said in a note


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitRow:
    """One visit in the table with the cells of its strip; without `url` it is gone since."""

    figures: VisitReading
    cells: Sequence[Sequence[int]]
    url: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StopRows:
    """A stop with its visits, under the names it has today."""

    label: str
    name: str
    distance_m: float
    visits: list[VisitRow]


@dataclass(frozen=True, slots=True)
class _Place:
    """What a visit's stop and rig are called today, and its strip."""

    stop: str = ""
    name: str = ""
    rig: str = ""
    cells: Sequence[Sequence[int]] = ()


def answer(reading: Reading | None) -> Answer:
    """Return the answer in one sentence."""
    return answer_of(reading) if reading is not None and reading.rigs else NOT_WALKED


def table(study: Study, reading: Reading, *, stop: str = "", rig: str = "") -> list[StopRows]:
    """Return the visits by stop, nearest first, narrowed to one stop or rig if asked.

    A visit is followed by its own number, so one whose stop was renamed since keeps its row.
    """
    places = _places(reading)
    stops: dict[str, StopRows] = {}
    for figures in reading.visits:
        place = places.get(figures.ref or 0, _Place(stop=figures.stop, rig=figures.rig))
        if (stop and place.stop != stop) or (rig and place.rig != rig):
            continue
        known = figures.ref in places
        rows = stops.setdefault(
            place.stop,
            StopRows(label=place.stop, name=place.name, distance_m=figures.distance_m, visits=[]),
        )
        rows.visits.append(
            VisitRow(
                figures=figures,
                cells=place.cells,
                url=reverse("read:visit", args=[study.pk, figures.ref]) if known else "",
            )
        )
    for rows in stops.values():
        rows.visits.sort(key=lambda row: (row.figures.rig, row.figures.walk, row.figures.condition))
    return sorted(stops.values(), key=lambda rows: (rows.distance_m, rows.label))


def _places(reading: Reading) -> dict[int, _Place]:
    refs = [figures.ref for figures in reading.visits if figures.ref is not None]
    rows = Visit.objects.filter(pk__in=refs).values_list(
        "pk", "stop__label", "stop__name", "rig__letter", "summary__strip"
    )
    return {pk: _Place(stop, name, rig, cells or ()) for pk, stop, name, rig, cells in rows}


def figures_of(visit: Visit, reading: Reading | None) -> VisitReading | None:
    """Return what the reading says of one visit, None where it has not been read yet."""
    if reading is None:
        return None
    return next((figures for figures in reading.visits if figures.ref == visit.pk), None)


def notes(study: Study, reading: Reading | None) -> list[SideNote]:
    """Return the side notes of a reading with what was decided about them."""
    page = reverse("read:reading", args=[study.pk])
    found = reading.notes if reading else ()
    return with_decisions(study, [_side_note(note, page, study) for note in found])


def _side_note(note: Note, page: str, study: Study) -> SideNote:
    url, words = "", ""
    if note.ref is not None:
        url, words = reverse("read:visit", args=[study.pk, note.ref]), "Show the frames"
    elif note.stop:
        url, words = f"{page}?stop={note.stop}#table", "Show the stop"
    elif note.rig:
        url, words = f"{page}?rig={note.rig}#table", "Show the visits"
    return alike(SideNote, note, evidence_url=url, evidence=words, state="open", reason="")


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameRow:
    """A logged line, and how many frames are missing before it."""

    frame: Frame
    missing_before: int


def frame_rows(frames: Sequence[Frame]) -> list[FrameRow]:
    """Return logged lines with the gaps between neighbours of one page."""
    rows, last = [], None
    for frame in frames:
        gap = frame.seq - last - 1 if last is not None and frame.seq > last else 0
        rows.append(FrameRow(frame=frame, missing_before=gap if gap < LONGEST_GAP else 0))
        last = frame.seq
    return rows


VISIT_COLUMNS = (
    "rig",
    "stop",
    "distance_m",
    "condition",
    "sent",
    "heard",
    "loss",
    "loss_low",
    "loss_high",
    "rssi_of_heard_dbm",
    "level_dbm",
    "level_low_dbm",
    "level_high_dbm",
    "noise_dbm",
    "in_hand_db",
)


def visit_table_rows(reading: Reading) -> Iterator[dict[str, Cell]]:
    """Yield the figures behind the charts, one row per visit."""
    for one in reading.visits:
        level = _three(one.level_dbm)
        yield {
            "rig": one.rig,
            "stop": one.stop,
            "distance_m": one.distance_m,
            "condition": one.condition,
            "sent": one.sent,
            "heard": one.heard,
            "loss": one.loss.estimate,
            "loss_low": one.loss.low,
            "loss_high": one.loss.high,
            "rssi_of_heard_dbm": one.heard_level_dbm,
            "level_dbm": level[0],
            "level_low_dbm": level[1],
            "level_high_dbm": level[2],
            "noise_dbm": one.noise_dbm,
            "in_hand_db": one.in_hand_db,
        }


def _three(found: Estimate | None) -> tuple[float | None, float | None, float | None]:
    return (None, None, None) if found is None else (found.estimate, found.low, found.high)
