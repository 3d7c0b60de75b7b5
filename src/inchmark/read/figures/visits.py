"""What Read shows: the table by stop and rig, side notes, and every figure down to its frames."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.urls import reverse

from inchmark.core.alike import alike
from inchmark.core.interval import Estimate
from inchmark.core.reading.answer import Answer, answer_of
from inchmark.core.reading.result import Note, Reading, VisitReading
from inchmark.core.wording import link_words
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
    odd_cells: Sequence[Mapping[str, int]]
    url: str
    stop: str = ""

    @property
    def how(self) -> str:
        """Return what tells the visit from others of its rig and stop."""
        one = self.figures
        link = link_words(one.direction, one.receiver)
        return ", ".join(part for part in (link, one.condition) if part)

    @property
    def marks(self) -> str:
        """Return what became of some of its frames, in words."""
        one = self.figures
        counted = (
            (one.passes if one.passes > 1 else 0, "passes"),
            (one.relayed, "relayed"),
            (one.out_of_order, "late"),
            (one.duplicates, "twice"),
            (one.silent_tail, "unplaced"),
            (one.left_out, "left out"),
        )
        parts = [f"{count} {word}" for count, word in counted if count]
        if one.interfered:
            parts.append("disturbed")
        return ", ".join(parts)


@dataclass(frozen=True, slots=True)
class _Place:
    """What a visit's stop and rig are called today, and its strip."""

    stop: str = ""
    name: str = ""
    rig: str = ""
    cells: Sequence[Sequence[int]] = ()
    odd_cells: Sequence[Mapping[str, int]] = ()


def answer(reading: Reading | None) -> Answer:
    """Return the answer in one sentence."""
    return answer_of(reading) if reading is not None and reading.rigs else NOT_WALKED


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """Which visits are asked for, and by what they are grouped; empty means all."""

    stop: str = ""
    rig: str = ""
    link: str = ""  # direction and receiver, apart by a bar
    condition: str = ""
    walk: str = ""
    passes: str = ""
    by: str = "stop"
    unfolded: bool = False

    @classmethod
    def of(cls, asked: Mapping[str, Any]) -> Shown:
        """Return what an address asks for."""
        words = {name: str(asked.get(name, ""))[:200] for name in FILTERS}
        by = "rig" if asked.get("by") == "rig" else "stop"
        return cls(**words, by=by, unfolded=bool(asked.get("all")))

    @property
    def narrowed(self) -> bool:
        """Tell whether anything is left out."""
        return any(getattr(self, name) for name in FILTERS)

    def takes(self, figures: VisitReading, place: _Place) -> bool:
        """Tell whether a visit is asked for."""
        wanted = {
            "stop": place.stop,
            "rig": place.rig,
            "link": f"{figures.direction}|{figures.receiver}",
            "condition": figures.condition,
            "walk": figures.walk,
            "passes": str(figures.passes),
        }
        return all(
            not getattr(self, name) or getattr(self, name) == wanted[name] for name in wanted
        )


FILTERS = ("stop", "rig", "link", "condition", "walk", "passes")
FOLD_FROM = 100  # visits; more are folded into a row for each stop or rig


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """Something the table can be narrowed to."""

    name: str
    label: str
    values: list[tuple[str, str]]


def choices(reading: Reading) -> list[Choice]:
    """Return what the table can be narrowed to, where there is more than one of it."""
    every = reading.visits
    found = [
        ("rig", "Rig", {one.rig: one.rig for one in every}),
        (
            "link",
            "Link",
            {
                f"{one.direction}|{one.receiver}": link_words(one.direction, one.receiver)
                for one in every
            },
        ),
        (
            "condition",
            "Condition",
            {one.condition: one.condition for one in every if one.condition},
        ),
        ("walk", "Walk", {one.walk: one.walk for one in every if one.walk}),
        ("passes", "Made in", {str(one.passes): _passes(one.passes) for one in every}),
    ]
    return [
        Choice(name=name, label=label, values=sorted(values.items()))
        for name, label, values in found
        if len(values) > 1 or (name == "condition" and values)
    ]


def _passes(count: int) -> str:
    return "one pass" if count == 1 else f"{count} passes"


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitGroup:
    """A stop or a rig with its visits, under the names it has today; folded it shows sums alone."""

    label: str
    name: str
    distance_m: float | None
    visits: list[VisitRow]
    folded: bool = False

    @property
    def sent(self) -> int:
        """Return the frames sent at all its visits."""
        return sum(row.figures.sent for row in self.visits)

    @property
    def heard(self) -> int:
        """Return the frames heard at all its visits."""
        return sum(row.figures.heard for row in self.visits)


def folds(reading: Reading) -> bool:
    """Tell whether all visits together are too many to show at once."""
    return len(reading.visits) > FOLD_FROM


def table(study: Study, reading: Reading, shown: Shown) -> list[VisitGroup]:
    """Return the visits by stop, nearest first, or by rig, narrowed as asked.

    A visit is followed by its own number, so one whose stop was renamed since keeps its row.
    """
    places = _places(reading)
    groups: dict[str, VisitGroup] = {}
    taken = 0
    for figures in reading.visits:
        place = places.get(figures.ref or 0, _Place(stop=figures.stop, rig=figures.rig))
        if not shown.takes(figures, place):
            continue
        taken += 1
        by_stop = shown.by == "stop"
        label = place.stop if by_stop else place.rig
        group = groups.setdefault(
            label,
            VisitGroup(
                label=label,
                name=place.name if by_stop else "",
                distance_m=figures.distance_m if by_stop else None,
                visits=[],
            ),
        )
        group.visits.append(
            VisitRow(
                figures=figures,
                cells=place.cells,
                odd_cells=place.odd_cells,
                stop=place.stop,
                url=reverse("read:visit", args=[study.pk, figures.ref])
                if figures.ref in places
                else "",
            )
        )
    fold = taken > FOLD_FROM and not shown.unfolded
    for group in groups.values():
        group.visits.sort(key=_in_order)
    found = [replace(group, folded=fold) for group in groups.values()]
    return sorted(found, key=lambda group: (group.distance_m or 0.0, group.label))


def _in_order(row: VisitRow) -> tuple[Any, ...]:
    one = row.figures
    return (one.rig, one.walk, one.direction, one.receiver, one.condition, one.distance_m)


def _places(reading: Reading) -> dict[int, _Place]:
    refs = [figures.ref for figures in reading.visits if figures.ref is not None]
    rows = Visit.objects.filter(pk__in=refs).values_list(
        "pk", "stop__label", "stop__name", "rig__letter", "summary__strip", "summary__strip_marks"
    )
    return {
        pk: _Place(stop, name, rig, cells or (), marks or ())
        for pk, stop, name, rig, cells, marks in rows
    }


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


REMEDIES = {
    "shelf": ("To the shelf", "shelf:rigs"),
    "plan": ("To the plan", "plan:stops"),
    "walk": ("To the walk", "walk:walks"),
}


def _side_note(note: Note, page: str, study: Study) -> SideNote:
    url, words = "", ""
    if note.ref is not None:
        url, words = reverse("read:visit", args=[study.pk, note.ref]), "Show the frames"
    elif note.stop:
        url, words = f"{page}?stop={note.stop}#table", "Show the stop"
    elif note.rig:
        url, words = f"{page}?rig={note.rig}#table", "Show the visits"
    remedy, room = REMEDIES.get(note.remedy, ("", ""))
    return alike(
        SideNote,
        note,
        evidence_url=url,
        evidence=words,
        remedy_url=reverse(room, args=[study.pk]) if room else "",
        remedy=remedy,
        state="open",
        reason="",
    )


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
    "walk",
    "direction",
    "receiver",
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
    "relayed",
    "passes",
    "left_out",
    "interfered",
)


def visit_table_rows(reading: Reading) -> Iterator[dict[str, Cell]]:
    """Yield the figures behind the charts, one row per visit."""
    for one in reading.visits:
        level = _three(one.level_dbm)
        yield {
            "rig": one.rig,
            "stop": one.stop,
            "distance_m": one.distance_m,
            "walk": one.walk,
            "direction": one.direction,
            "receiver": one.receiver,
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
            "relayed": one.relayed,
            "passes": one.passes,
            "left_out": one.left_out,
            "interfered": int(one.interfered),
        }


def _three(found: Estimate | None) -> tuple[float | None, float | None, float | None]:
    return (None, None, None) if found is None else (found.estimate, found.low, found.high)
