"""Verbs on how a log is read: propose a recipe, show what it gives, keep it, name what the study lacks."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from itertools import islice
from typing import Any

from django.db import transaction

from inchmark.core.gathering.log import LogReading
from inchmark.core.gathering.words import event_words, row_words
from inchmark.core.recipe.clock import Clock, Kind, zone_of
from inchmark.core.recipe.propose import MOST_LINES, MOST_SEEN
from inchmark.core.recipe.reader import Clocking, Damaged, Event, Reader
from inchmark.core.recipe.reader import Told as ToldLine
from inchmark.core.recipe.recipe import Recipe
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.reader import is_frame_log
from inchmark.formats.recipe_file import recipe_to_json
from inchmark.plan.models import Stop
from inchmark.plan.services import save_stop
from inchmark.shelf.models import Rig
from inchmark.shelf.services.rigs import copy_rig, next_letter, save_rig
from inchmark.studies.models import Study
from inchmark.studies.services import touch
from inchmark.walk.adapters.logs import NEW, Names, Said, log_reading, said_of, timeline_of
from inchmark.walk.adapters.recipes import LevelSaid
from inchmark.walk.models import FrameFile, Visit, Walk
from inchmark.walk.services import by_recipe
from inchmark.walk.services.ingest import import_frames
from inchmark.walk.services.known_recipes import first_lines, keep_with_modules
from inchmark.walk.services.receive import (
    Received,
    file_bytes,
    queue_import,
    read_again,
    receive,
    times_of,
)
from inchmark.walk.services.retention import refuse_without_lines
from inchmark.walk.services.senders import read_with_sender
from inchmark.walk.services.summaries import summarise

SHOWN = 60  # lines of a preview
AT_ONCE_BYTES = 3_000_000  # a log up to this size is read while one waits


def needs_recipe(file: FrameFile) -> bool:
    """Tell whether a log is no frame log of ours, so that its lines have to be told first."""
    first = file.chunks.first()
    return not is_frame_log(bytes(first.data[:65_536]) if first else b"")


@transaction.atomic
def ask(file: FrameFile) -> FrameFile:
    """Let a log wait until somebody has said how it is read."""
    file.state = FrameFile.ASKING
    file.said = Said(zone=zone_text(file.walk.study), day=file.walk.walked_on).model_dump(
        mode="json"
    )
    file.save(update_fields=["state", "said"])
    return file


def zone_text(study: Study) -> str:
    """Return the zone of the study's field day, like +01:00."""
    design = getattr(study, "design", None)
    minutes = round((design.utc_offset_h if design else 0.0) * 60)
    return f"{'-' if minutes < 0 else '+'}{abs(minutes) // 60:02d}:{abs(minutes) % 60:02d}"


def form_values(recipe: Recipe) -> dict[str, Any]:
    """Return what a form shows of a recipe beside its parts."""
    return asdict(LevelSaid.of(recipe)) | {"month_first": recipe.month_first}


def begin_reading(file: FrameFile, *, waiting: bool) -> FrameFile:
    """Read a log of ours, let any other wait for its recipe; what is no text says so.

    With somebody `waiting` a small log is read at once, else in the queue.
    """
    if not needs_recipe(file):
        if waiting:
            return read_now(file)
        queue_import(file)
        return file
    try:
        first_lines(file)
    except UnreadableFileError as wrong:
        file.state, file.problem = FrameFile.FAILED, str(wrong)[:600]
        file.save(update_fields=["state", "problem"])
        return file
    return ask(file)


def take_in(
    walk: Walk, name: str, blocks: Iterable[bytes], by: Any, *, waiting: bool = False
) -> Received:
    """Keep a log, and begin to read it."""
    received = receive(walk, name=name, blocks=blocks, by=by, queue=False)
    if not received.known:
        begin_reading(received.file, waiting=waiting)
    return received


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """A line of a log beside what it becomes."""

    number: int
    text: str
    becomes: str
    kind: str  # frame, damaged, else


@dataclass(slots=True, kw_only=True)
class Preview:
    """What a recipe makes of a log's first lines: line by line, and in numbers."""

    lines: list[Shown] = field(default_factory=list)
    looked_at: int = 0
    frames: int = 0
    damaged: int = 0
    no_frames: int = 0
    rigs: Counter[str] = field(default_factory=Counter)
    stops: Counter[str] = field(default_factory=Counter)

    @property
    def without_rig(self) -> int:
        """Return how many frames name no rig."""
        return self.rigs[""]

    @property
    def without_stop(self) -> int:
        """Return how many frames name no stop."""
        return self.stops[""]


def preview(file: FrameFile, recipe: Recipe, said: Said) -> Preview:
    """Return what a recipe makes of a log's first lines, as many as a proposal looks at."""
    reading, found = log_reading(file.walk, recipe, said), Preview()
    seen, blocks = 0, file_bytes(file)
    told = by_recipe.events_of(reading, blocks, came=times_of(file))
    for i, (text, events) in enumerate(islice(told, MOST_LINES)):
        seen += len(text)
        if seen > MOST_SEEN:
            break
        found.looked_at += bool(text)
        for event in events:
            _count(found, reading, event)
        if i < SHOWN and text:
            found.lines.append(_shown(reading, i + 1, text, events))
    return found


def _count(found: Preview, reading: LogReading, event: object) -> None:
    if isinstance(event, ToldLine):
        _, row = reading.constants.rows([event])[0]
        row = reading.timeline.placed(row)
        found.frames += 1
        found.rigs[row.rig] += 1
        found.stops[row.stop] += 1
    elif isinstance(event, Damaged):
        found.damaged += 1
    else:
        found.no_frames += 1


def _shown(reading: LogReading, number: int, text: str, events: Sequence[Event]) -> Shown:
    told = [event for event in events if isinstance(event, ToldLine)]
    damaged = [event for event in events if isinstance(event, Damaged)]
    if told:
        rows = [reading.timeline.placed(row) for _, row in reading.constants.rows(told)]
        words = "; ".join(row_words(row, one.act) for row, one in zip(rows, told, strict=True))
        return Shown(number=number, text=text[:300], becomes=words, kind="frame")
    if damaged:
        return Shown(number=number, text=text[:300], becomes=damaged[0].reason, kind="damaged")
    words = event_words(events[0]) if events else "no frame"
    return Shown(number=number, text=text[:300], becomes=words, kind="else")


def anchored(file: FrameFile, said: Said, recipe: Recipe, starts_at: str) -> Said:
    """Return what was said with the moment at which a counter of time stood at nought."""
    if not starts_at:
        return said
    zone = zone_of(said.zone)
    moment = Clock(Kind.CLOCK, zone=zone, day=said.day).read(starts_at)
    reader = Reader(recipe, Clocking(zone=zone, day=said.day, anchor_s=0.0))
    for i, line in enumerate(first_lines(file), 1):
        for event in reader.read(i, line):
            if isinstance(event, ToldLine) and event.time_s is not None and moment is not None:
                return said.model_copy(update={"anchor_s": moment - event.time_s})
    return said


def keep_recipe(file: FrameFile, recipe: Recipe, said: Said) -> FrameFile:
    """Keep how a log is read, and read it: a small one while one waits, a large one in the queue."""
    file.recipe, file.said = recipe_to_json(recipe), said.model_dump(mode="json")
    file.state, file.problem = FrameFile.WAITING, ""
    file.save(update_fields=["recipe", "said", "state", "problem"])
    keep_with_modules(file, preview(file, recipe, said).rigs)
    return read_now(file)


def outcome_words(file: FrameFile) -> str:
    """Return what came of reading a log, in a sentence."""
    if file.state != FrameFile.READ:
        return f"{file.name} is being read."
    waiting = sum(file.unknown.get("rigs", {}).values()) or sum(
        file.unknown.get("stops", {}).values()
    )
    if waiting:
        return f"{file.name}: {waiting} frames wait for rigs or stops that the study lacks."
    return f"{file.name}: {file.frame_count} frames; {file.bad_count} lines could not be read."


def read_now(file: FrameFile) -> FrameFile:
    """Read a small log at once; queue a large one."""
    refuse_without_lines(file)
    if file.size_bytes > AT_ONCE_BYTES:
        read_again(file)
        return file
    return import_frames(file.pk)


@transaction.atomic
def set_aside(file: FrameFile, reason: str) -> FrameFile:
    """Take what a log gave out of the results; its lines stay, and it can be taken back."""
    FrameFile.objects.alone_with(file.pk)
    file.refresh_from_db(fields=["let_go_at"])
    refuse_without_lines(file)
    if file.sent_count:
        read_with_sender(file)
    visits = set(Visit.objects.filter(frames__file=file).values_list("pk", flat=True))
    FrameFile.objects.clear(file.pk)
    file.state, file.aside_reason, file.frame_count, file.bad_count = FrameFile.ASIDE, reason, 0, 0
    file.unknown = {}  # what it names is asked of nobody while it does not count
    file.save(update_fields=["state", "aside_reason", "frame_count", "bad_count", "unknown"])
    summarise(Visit.objects.filter(pk__in=visits).select_related("rig", "walk"))
    touch(file.walk.study)
    return file


def take_back(file: FrameFile) -> FrameFile:
    """Read a log again that was set aside."""
    FrameFile.objects.filter(pk=file.pk).update(aside_reason="", state=FrameFile.WAITING)
    file.aside_reason, file.state = "", FrameFile.WAITING
    return read_now(file)


@transaction.atomic
def name_lacking(
    study: Study,
    files: Sequence[FrameFile],
    rigs: Mapping[str, str],
    stops: Mapping[str, str | float],
) -> list[FrameFile]:
    """Make or map what logs name; return the files to be read again.

    Parameters
    ----------
    rigs
        By name in the logs: the letter of a rig, or `NEW` for a copy of the nearest one.
    stops
        By name in the logs: the label of a stop, or the distance [m] of a new one.
    """
    meant = Names()
    for name, choice in rigs.items():
        meant.rigs[name] = make_rig(study, name).letter if choice == NEW else choice
    for name, place in stops.items():
        if isinstance(place, float):
            made = save_stop(study, Stop(study=study, label=name[:60], distance_m=place))
            meant.stops[name] = made.label
        else:
            meant.stops[name] = place
    touched = []
    for file in files:
        named = set(file.unknown.get("rigs", {})) | set(file.unknown.get("stops", {}))
        if named & (meant.rigs.keys() | meant.stops.keys()):
            said = said_of(file)
            said.names.rigs |= meant.rigs
            said.names.stops |= meant.stops
            file.said = said.model_dump(mode="json")
            file.save(update_fields=["said"])
            touched.append(file)
    return touched


def make_rig(study: Study, name: str) -> Rig:
    """Return a new rig that logs call by a name: a copy of the first, else one with nothing known."""
    first = study.rigs.order_by("pk").first()
    free = len(name) <= 2 and name.isalpha() and name.isupper()
    taken = study.rigs.filter(letter=name).exists()
    letter = name if free and not taken else next_letter(study)
    if first is not None:
        rig = copy_rig(first)
        rig.letter = letter
    else:
        rig = Rig(letter=letter, module="not named", antenna="not named", spreading_factor=7)
    rig.log_name = "" if letter == name else name[:60]
    return save_rig(study, rig)


@transaction.atomic
def follow_timeline(walk: Walk) -> None:
    """Log the silence of stays whose sent frames nobody heard, once the walk's logs are read.

    A stay of no rig stands for every rig that was carried.
    """
    carried = set(walk.visits.values_list("rig__letter", flat=True))
    spoken = [
        (stay, rig)
        for stay in timeline_of(walk).stays
        if stay.sent
        for rig in ([stay.rig] if stay.rig else sorted(carried))
    ]
    for stay, rig in spoken:
        heard = walk.visits.filter(rig__letter=rig, stop__label=stay.stop, condition=stay.condition)
        if heard.filter(frames__isnull=False).exists():
            continue
        visit, _ = Visit.objects.get_or_create(
            walk=walk,
            rig=walk.study.rigs.get(letter=rig),
            stop=walk.study.stops.get(label=stay.stop),
            condition=stay.condition,
            direction="",
            receiver=stay.receiver,
        )
        visit.silent_sent = stay.sent
        visit.save(update_fields=["silent_sent"])
        summarise([visit])
    touch(walk.study)
