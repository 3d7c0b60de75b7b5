"""Stored readings as pages show them: the answer, the table by stop and rig, strips, notes."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from django.db import connection
from django.urls import reverse

from inchmark.core.reading.answer import Answer, answer_of
from inchmark.core.reading.rules import RangeRules
from inchmark.read.models import StudyReading
from inchmark.studies.models import Study
from inchmark.studies.records import SideNote, with_decisions
from inchmark.walk.models import Frame, Visit

VisitKeys = dict[tuple[str, ...], int]  # what makes a visit -> its number
STRIP_WIDTH, STRIP_HEIGHT = 240, 14
_EXPORT = """
    COPY (SELECT r.letter AS rig, s.label AS stop, f.seq, f.heard::int AS heard,
                 to_char(f.time AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"') AS time,
                 f.rssi_dbm, f.snr_db, f.noise_dbm, v.condition, v.direction, v.receiver,
                 f.source, f.hops, f.lat, f.lon
          FROM walk_frame f JOIN walk_visit v ON v.id = f.visit_id
               JOIN shelf_rig r ON r.id = v.rig_id
               JOIN plan_stop s ON s.id = v.stop_id JOIN walk_walk w ON w.id = v.walk_id
          WHERE w.study_id = {study_id} ORDER BY w.number, f.file_id, f.line_number)
    TO STDOUT (FORMAT csv, HEADER true)
"""


@dataclass(frozen=True, slots=True, kw_only=True)
class Strip:
    """Frames in order sent, drawn as two outlines: heard up to full height, missed as a stub."""

    heard: str
    missed: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitRow:
    """One visit in the table."""

    pk: int
    figures: dict[str, Any]
    strip: Strip
    condition: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StopRows:
    """A stop with its visits."""

    label: str
    name: str
    distance_m: float
    visits: list[VisitRow]


def latest_reading(study: Study) -> StudyReading | None:
    """Return the study's latest reading."""
    return study.readings.order_by("-pk").first()


def latest_rigs(study: Study) -> dict[str, Any]:
    """Return what the latest reading says of each rig, without loading the rest of it."""
    return study.readings.order_by("-pk").values_list("data__rigs", flat=True).first() or {}


def rules_of(study: Study) -> RangeRules:
    """Return the rules the study reads its ranges under."""
    return RangeRules(loss=study.loss_share, places=study.places_share, in_hand_db=study.in_hand_db)


def answer(study: Study, reading: StudyReading | None) -> Answer:
    """Return the answer in one sentence."""
    if reading is None or not reading.data.get("rigs"):
        return Answer(sentence="Nothing has been walked yet.")
    return answer_of(reading.data, needed_m=study.needed_m, rules=rules_of(study))


def table(
    study: Study, reading: StudyReading, keys: VisitKeys, *, stop: str = "", rig: str = ""
) -> list[StopRows]:
    """Return the visits by stop, nearest first, narrowed to one stop or rig if asked."""
    strips = dict(
        Visit.objects.filter(pk__in=reading.visit_ids).values_list("pk", "summary__strip")
    )
    names = dict(study.stops.values_list("label", "name"))
    stops: dict[str, StopRows] = {}
    for figures in reading.data["visits"]:
        if (stop and figures["stop"] != stop) or (rig and figures["rig"] != rig):
            continue
        pk = keys.get(_key(figures))
        if pk is None:
            continue
        label = figures["stop"]
        rows = stops.setdefault(
            label,
            StopRows(
                label=label, name=names.get(label, ""), distance_m=figures["distance_m"], visits=[]
            ),
        )
        rows.visits.append(
            VisitRow(
                pk=pk,
                figures=figures,
                strip=strip_of(strips.get(pk) or []),
                condition=figures["condition"],
            )
        )
    for rows in stops.values():
        rows.visits.sort(key=lambda row: (row.figures["rig"], row.figures["walk"], row.condition))
    return sorted(stops.values(), key=lambda rows: (rows.distance_m, rows.label))


def visit_keys(reading: StudyReading) -> VisitKeys:
    """Return the number of each visit by what makes it; one query a page."""
    rows = Visit.objects.filter(pk__in=reading.visit_ids).values_list(
        "pk", "rig__letter", "stop__label", "condition", "direction", "receiver", "walk__number"
    )
    return {tuple(map(str, rest)): pk for pk, *rest in rows}


def _key(figures: dict[str, Any]) -> tuple[str, ...]:
    return tuple(
        figures[name] for name in ("rig", "stop", "condition", "direction", "receiver", "walk")
    )


def figures_of(visit: Visit, reading: StudyReading | None) -> dict[str, Any] | None:
    """Return what the reading says of one visit, None where it has not been read yet."""
    if reading is None:
        return None
    pairs = _with_keys(reading, visit_keys(reading))
    return next((figures for figures, pk in pairs if pk == visit.pk), None)


def strip_of(cells: Sequence[Sequence[int]]) -> Strip:
    """Return the outlines of a strip of (sent, heard) cells."""
    if not cells:
        return Strip(heard="", missed="", words="no frames")
    width = STRIP_WIDTH / len(cells)
    bar = max(width - 1, width * 0.6)
    heard, missed = [], []
    for i, (sent, ok) in enumerate(cells):
        x, height = i * width, STRIP_HEIGHT * ok / sent
        if ok:
            heard.append(f"M{x:.1f} {STRIP_HEIGHT}v{-height:.1f}h{bar:.1f}v{height:.1f}z")
        if ok < sent:
            missed.append(f"M{x:.1f} {STRIP_HEIGHT}v-3h{bar:.1f}v3z")
    total, fine = sum(c[0] for c in cells), sum(c[1] for c in cells)
    return Strip(
        heard="".join(heard),
        missed="".join(missed),
        words=f"{fine} of {total} heard, in the order sent",
    )


def notes(study: Study, reading: StudyReading, keys: VisitKeys) -> list[SideNote]:
    """Return the side notes of a reading with what was decided about them."""
    page = reverse("read:reading", args=[study.pk])
    places = {(one["rig"], one["stop"]): pk for one, pk in _with_keys(reading, keys)}
    return with_decisions(
        study, [_side_note(found, page, study, places) for found in reading.notes]
    )


def _with_keys(reading: StudyReading, keys: VisitKeys) -> Iterator[tuple[dict[str, Any], int]]:
    for figures in reading.data["visits"]:
        pk = keys.get(_key(figures))
        if pk is not None:
            yield figures, pk


def _side_note(
    found: dict[str, str], page: str, study: Study, keys: dict[tuple[str, str], int]
) -> SideNote:
    rig, stop = found["rig"], found["stop"]
    url, words = "", ""
    if (rig, stop) in keys:
        url, words = reverse("read:visit", args=[study.pk, keys[rig, stop]]), "Show the frames"
    elif stop:
        url, words = f"{page}?stop={stop}#table", "Show the stop"
    elif rig:
        url, words = f"{page}?rig={rig}#table", "Show the visits"
    return SideNote(
        code=found["code"],
        subject="/".join(part for part in (rig, stop) if part),
        title=found["title"],
        text=found["text"],
        kind=found["kind"],
        evidence_url=url,
        evidence=words,
    )


def chart_data(study: Study, reading: StudyReading, keys: VisitKeys) -> dict[str, Any]:
    """Return what the charts draw: points with limits, curves, thresholds."""
    data = reading.data
    return {
        "rigs": [
            {
                "letter": letter,
                "threshold": one["threshold_dbm"]["estimate"],
                "curve": data["curves"].get(letter, []),
            }
            for letter, one in data["rigs"].items()
        ],
        "points": [_point(figures, pk, study) for figures, pk in _with_keys(reading, keys)],
        "loss": study.loss_share,
        "needed": study.needed_m,
        "exponent": data["site"]["exponent"]["estimate"],
        "shadowing": data["site"]["shadowing_db"]["estimate"],
    }


def _point(figures: dict[str, Any], pk: int, study: Study) -> dict[str, Any]:
    loss, rssi = figures["loss"], figures["rssi_dbm"]
    return {
        "rig": figures["rig"],
        "stop": figures["stop"],
        "condition": figures["condition"],
        "distance": figures["distance_m"],
        "sent": figures["sent"],
        "heard": figures["heard"],
        "delivered": [1 - loss["estimate"], 1 - loss["high"], 1 - loss["low"]],
        "level": [rssi["censored"]["estimate"], rssi["censored"]["low"], rssi["censored"]["high"]],
        "survivors": rssi["of_heard"],
        "url": reverse("read:visit", args=[study.pk, pk]),
    }


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
        rows.append(FrameRow(frame=frame, missing_before=gap if gap < 10_000 else 0))
        last = frame.seq
    return rows


def exported_frames(study: Study) -> Iterator[bytes]:
    """Yield all frames of a study as the CSV they could have come from."""
    with connection.cursor() as cursor, cursor.copy(_EXPORT.format(study_id=int(study.pk))) as copy:
        held = bytearray()
        for data in copy:
            held += data
            if len(held) > 1 << 18:
                yield bytes(held)
                held.clear()
        yield bytes(held)


def visit_table_rows(reading: StudyReading) -> Iterator[dict[str, Any]]:
    """Yield the figures behind the charts, one row per visit."""
    for one in reading.data["visits"]:
        yield {
            "rig": one["rig"],
            "stop": one["stop"],
            "distance_m": one["distance_m"],
            "condition": one["condition"],
            "sent": one["sent"],
            "heard": one["heard"],
            "loss": one["loss"]["estimate"],
            "loss_low": one["loss"]["low"],
            "loss_high": one["loss"]["high"],
            "rssi_of_heard_dbm": one["rssi_dbm"]["of_heard"],
            "level_dbm": one["rssi_dbm"]["censored"]["estimate"],
            "level_low_dbm": one["rssi_dbm"]["censored"]["low"],
            "level_high_dbm": one["rssi_dbm"]["censored"]["high"],
            "noise_dbm": one["noise_dbm"],
            "in_hand_db": one["in_hand_db"],
        }
