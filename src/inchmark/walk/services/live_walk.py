"""A walk as it is walked, held in one web process for all who watch it there."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from inchmark.core.gathering.source import Row
from inchmark.core.gathering.timeline import Timeline
from inchmark.core.live.enough import Wanted
from inchmark.core.live.link import HOUR_S, Desk, LiveVisit, Stream
from inchmark.core.reception.passes import Counting
from inchmark.core.recipe.recipe import Recipe
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.reader import is_frame_log
from inchmark.formats.recipe_file import recipe_to_json
from inchmark.shelf.adapters.rigs import airtime_s
from inchmark.shelf.figures.limits import duty_of
from inchmark.shelf.models import Rig
from inchmark.walk.adapters.logs import log_reading, reading_of, said_of, timeline_of
from inchmark.walk.adapters.tail import Piece, Tail
from inchmark.walk.models import FrameFile, Walk
from inchmark.walk.services.known_recipes import proposal_for
from inchmark.walk.services.news import BEGIN, LINES, PLACE

TAIL_BYTES = 400_000  # of a log that is there already: what came last
HEAD_BYTES = 4_096
_READ = ("walk", "source", "recipe", "said", "state", "line_count")
LEAST_LINES = 2  # before a guess is made of what they mean


@dataclass(frozen=True, slots=True, kw_only=True)
class Air:
    """How long a rig may still be on air this hour, and how long an hour lets it be [s]."""

    left_s: float
    allowed_s: float

    @property
    def short(self) -> bool:
        """Tell whether less than a tenth is left."""
        return self.left_s < 0.1 * self.allowed_s


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceNow:
    """A source of the walk: its lines so far, and whether somebody has to say what they mean."""

    pk: int
    name: str
    lines: int
    asking: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkNow:
    """One link at the visit it is at."""

    rig: Rig
    visit: LiveVisit
    air: Air | None
    planned: int | None  # frames the plan wants a visit to have

    @property
    def wait_s(self) -> float:
        """Return how long the frames still needed take [s]."""
        return self.visit.enough.more * (self.visit.interval_s or 0.0)

    @property
    def key(self) -> str:
        """Return what the page calls its row."""
        return "-".join(part.encode().hex() for part in self.visit.stream)

    @property
    def direction(self) -> str:
        """Return the direction of the link, empty for the only one."""
        return self.visit.stream[1]

    @property
    def receiver(self) -> str:
        """Return who hears it, empty for the only one."""
        return self.visit.stream[2]


@dataclass(slots=True)
class LiveWalk:
    """What all links of a walk hear now; `follow` reads on what has come."""

    pk: int
    walk: Walk = field(init=False)
    desk: Desk = field(init=False)
    timeline: Timeline = field(init=False)
    sources: dict[int, SourceNow] = field(init=False)
    rigs: dict[str, Rig] = field(init=False)
    lacking: Counter[str] = field(init=False)  # names of frames that the study does not have
    _letters: dict[str, str] = field(init=False)
    _stops: set[str] = field(init=False)
    _recipes: dict[int, Any] = field(init=False)  # as each log was read, by log
    _air_of: dict[str, tuple[float, float]] = field(init=False)  # allowed an hour, a frame [s]
    _tails: dict[int, Tail] = field(init=False)
    _after: dict[int, int] = field(init=False)  # number of the last chunk read, by log

    def __post_init__(self) -> None:
        """Read what is there."""
        self.begin()

    def begin(self) -> None:
        """Read the ends of all live logs, with the timeline as it is now."""
        self.walk = Walk.objects.select_related("study").get(pk=self.pk)
        self.desk, self.sources, self.lacking = Desk(), {}, Counter()
        self._tails, self._after, self._recipes, self._air_of = {}, {}, {}, {}
        self._stops = set(self.walk.study.stops.values_list("label", flat=True))
        rigs = list(self.walk.study.rigs.with_parts())
        self.rigs = {rig.letter: rig for rig in rigs}
        self._letters = {rig.log_name: rig.letter for rig in rigs if rig.log_name}
        self._letters |= {rig.letter.lower(): rig.letter for rig in rigs}
        self.timeline = timeline_of(self.walk)
        found = [row for file in self._logs() for row in self._read_on(file)]
        self.desk.take(sorted(found, key=lambda row: row.time_s or 0.0))

    def follow(self, messages: Iterable[Mapping[str, Any]]) -> set[Stream] | None:
        """Read on what was told; return the links that changed, None where all may have."""
        told = list(messages)
        if any(one["kind"] in (BEGIN, PLACE) for one in told):
            self.begin()
            return None
        files = {int(one["file"]) for one in told if one["kind"] == LINES}
        known, changed = self._known(), set[Stream]()
        for file in self._logs(files) if files else ():
            if file.recipe is not None and self._recipes.get(file.pk, file.recipe) != file.recipe:
                self.begin()  # it was read by a guess, or somebody has said better
                return None
            changed |= self.desk.take(self._read_on(file))
        return changed if self._known() == known else None

    def _known(self) -> tuple[int, int]:
        return len(self.sources), len(self.desk.links)

    def links(self, only: set[Stream] | None = None) -> list[LinkNow]:
        """Return the links in the order of their names, or some of them."""
        streams = sorted(set(self.desk.links) if only is None else only)
        return [self._link(stream) for stream in streams]

    def by_source(self) -> list[SourceNow]:
        """Return the sources, those of several starts as one."""
        found: dict[tuple[str, bool], SourceNow] = {}
        for one in self.sources.values():
            key = one.name, one.asking
            lines = one.lines + (found[key].lines if key in found else 0)
            found[key] = replace(one, lines=lines)
        return list(found.values())

    def strangers(self) -> list[tuple[str, int]]:
        """Return names of frames that the study does not have, with how many bear each."""
        return sorted(self.lacking.items())

    def quiet(self) -> list[Rig]:
        """Return the rigs of which nothing has been heard on this walk."""
        heard = {stream[0] for stream in self.desk.links}
        return [rig for letter, rig in self.rigs.items() if letter not in heard]

    def _logs(self, only: Iterable[int] | None = None) -> Iterable[FrameFile]:
        logs = self.walk.files.exclude(source="").exclude(state=FrameFile.ASIDE).only(*_READ)
        return logs if only is None else logs.filter(pk__in=only)

    def _read_on(self, file: FrameFile) -> list[Row]:
        """Return the frames of what a log has more than before, placed by the timeline."""
        file.walk = self.walk
        tail = self._tail(file)
        asking = tail is None and file.state == FrameFile.ASKING
        self.sources[file.pk] = SourceNow(
            pk=file.pk, name=file.source, lines=file.line_count, asking=asking
        )
        if tail is None:
            return []
        chunks = file.chunks.filter(number__gt=self._after[file.pk]).order_by("number")
        rows: list[Row] = []
        for number, data, came in chunks.values_list("number", "data", "came"):
            rows += tail.rows([Piece(bytes(data), None if came is None else bytes(came))])
            self._after[file.pk] = number
        names = said_of(file).names
        rigs = self._letters | names.rigs
        named = (_named(row, rigs, names.stops) for row in rows)
        return [row for row in map(self.timeline.placed, named) if self._is_known(row)]

    def _is_known(self, row: Row) -> bool:
        """Tell whether the study has the rig and stop a frame names; what it lacks is counted."""
        lacks = [f"rig {row.rig}"] * bool(row.rig and row.rig not in self.rigs)
        lacks += [f"stop {row.stop}"] * bool(row.stop and row.stop not in self._stops)
        self.lacking.update(lacks)
        return not lacks

    def _tail(self, file: FrameFile) -> Tail | None:
        """Return where the reading of a log has come to; None while its lines cannot be told."""
        if file.pk in self._tails:
            return self._tails[file.pk]
        first = file.chunks.order_by("number").first()
        head = bytes(first.data[:HEAD_BYTES]) if first else b""
        if file.recipe is not None:
            self._recipes[file.pk] = file.recipe
            tail = Tail(reading_of(file))
        elif is_frame_log(head):
            line = head.split(b"\n")[0] + b"\n"
            tail = Tail(None, header=b"" if line.lstrip().startswith(b"{") else line)
        elif guess := _guess(file):
            self._recipes[file.pk] = recipe_to_json(guess)
            tail = Tail(log_reading(self.walk, guess, said_of(file)))
        else:
            return None
        self._tails[file.pk], self._after[file.pk] = tail, _before_end(file)
        return tail

    def _link(self, stream: Stream) -> LinkNow:
        rig, link = self.rigs[stream[0]], self.desk.links[stream]
        counting = Counting(counter_bits=self.walk.counter_bits, interval_s=self.walk.interval_s)
        visit = link.visit(counting, self.wanted, includes_noise=bool(rig.rssi_includes_noise))
        return LinkNow(rig=rig, visit=visit, air=self._air(rig, stream), planned=self.planned)

    def _air(self, rig: Rig, stream: Stream) -> Air | None:
        """Return how long the carried end of a rig may still send this hour; None for replies."""
        last = self.desk.links[stream].rows[-1].time_s
        if stream[1] or last is None:
            return None
        if rig.letter not in self._air_of:
            share = duty_of(rig, self.walk.study.region).percent / 100
            self._air_of[rig.letter] = HOUR_S * share, airtime_s(rig)
        allowed, frame_s = self._air_of[rig.letter]
        used = self.desk.links[stream].sent_since(last - HOUR_S) * frame_s
        return Air(left_s=max(allowed - used, 0.0), allowed_s=allowed)

    @property
    def planned(self) -> int | None:
        """Return how many frames a visit is to have: the walk's, else the plan's."""
        design = getattr(self.walk.study, "design", None)
        return self.walk.frames_per_visit or (design.frames if design else None)

    @property
    def wanted(self) -> Wanted:
        """Return what a visit is to show: the study's rule, and the plan's width."""
        study, design = self.walk.study, getattr(self.walk.study, "design", None)
        half = design.loss_within if design else 0.1
        return Wanted(rule_loss=study.loss_share, half=half)


def _named(row: Row, rigs: Mapping[str, str], stops: Mapping[str, str]) -> Row:
    """Return a row with the study's names for what the log calls its rig and stop."""
    rig = rigs.get(row.rig) or rigs.get(row.rig.lower()) or row.rig
    return replace(row, rig=rig, stop=stops.get(row.stop, row.stop))


def _guess(file: FrameFile) -> Recipe | None:
    """Return how the first lines of a log may be read until its recipe is kept; None where unsure."""
    if file.line_count < LEAST_LINES:
        return None
    try:
        found = proposal_for(file)
    except UnreadableFileError:
        return None
    return None if found.questions or not found.frames else found.recipe


def _before_end(file: FrameFile) -> int:
    """Return the number of the chunk after which some hundred kilobytes are left."""
    left = TAIL_BYTES
    sizes = file.chunks.order_by("-number").values_list("number", "data")
    for number, data in sizes.iterator(chunk_size=50):
        left -= len(data)
        if left < 0:
            return int(number)
    return -1
