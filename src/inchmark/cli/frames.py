"""`inchmark frames`: console logs of any board to our frame log, by recipes proposed or kept."""

from __future__ import annotations

import argparse
import re
import sys
from collections.abc import Iterator, Sequence
from datetime import UTC, date, timezone
from pathlib import Path

from inchmark.cli import frames_way
from inchmark.cli.frames_explained import explain, told_of
from inchmark.cli.log_read import LogRead
from inchmark.core.gathering.clocks import align
from inchmark.core.gathering.gather import Gathered, gather
from inchmark.core.gathering.source import Constants, Source
from inchmark.core.gathering.timeline import Timeline, Track
from inchmark.core.gathering.visits import Sending
from inchmark.core.recipe.clock import Clock, Kind, zone_of
from inchmark.core.recipe.names import Meaning
from inchmark.core.recipe.propose import Proposal, Told, propose, sample_of
from inchmark.core.recipe.reader import Clocking, Damaged, Reader
from inchmark.core.recipe.reader import Told as ToldLine
from inchmark.core.recipe.recipe import Recipe
from inchmark.formats.console_text import console_lines
from inchmark.formats.frame_log.rows_out import log_lines
from inchmark.formats.frame_log.visits import file_blocks
from inchmark.formats.recipe_file import NamedRecipe, read_recipes, recipe_text
from inchmark.formats.timeline_file import read_timeline, read_track

ASKED = 3
UNDATED = date(2000, 1, 1)  # stands for the day of times of day until somebody says which
SETTABLE = {
    m.value: m
    for m in (
        Meaning.RIG, Meaning.STOP, Meaning.RECEIVER, Meaning.DIRECTION, Meaning.CONDITION,
        Meaning.SOURCE,
    )
}  # fmt: skip
SINCE_START = (Kind.UP_MS, Kind.UP_S, Kind.UP_US)


def add_parser(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command and its options."""
    parser = commands.add_parser(
        "frames", help="read console logs of any board into a frame log, by a recipe"
    )
    # so that -130..-50 and -05:30 are values; no option of ours begins with a digit
    parser._negative_number_matcher = re.compile(r"-\d")
    parser.add_argument("files", nargs="+", type=Path, metavar="FILE")
    parser.add_argument("--csv", action="store_true", help="print the frame log")
    parser.add_argument("--explain", action="store_true", help="say what each part was taken for")
    parser.add_argument("--recipe", type=Path, metavar="FILE", help="read by kept recipes")
    parser.add_argument("--keep", type=Path, metavar="FILE", help="write the proposed recipes")
    parser.add_argument(
        "--set",
        action="append",
        default=[],
        metavar="[FILE:]FIELD=VALUE",
        help=f"what a log stands for: {', '.join(SETTABLE)}",
    )
    parser.add_argument("--zone", default="", metavar="+01:00", help="zone of times without one")
    parser.add_argument("--date", type=_day, metavar="YYYY-MM-DD", help="day of the first line")
    parser.add_argument(
        "--clock",
        action="append",
        default=[],
        metavar="FILE=SECONDS",
        help="seconds to add to a file's clock; auto finds them from frames both ends know",
    )
    parser.add_argument("--interval", type=float, metavar="S", help="seconds between frames")
    parser.add_argument("--sent-per-visit", type=int, metavar="N", help="frames sent at a visit")
    parser.add_argument(
        "--percent", type=_span, metavar="LOW..HIGH", help="dBm at 0 and at 100 per cent"
    )
    parser.add_argument("--track", type=Path, metavar="FILE.gpx", help="where it was carried")
    parser.add_argument("--timeline", type=Path, metavar="FILE.csv", help="who stood where, when")
    frames_way.add_options(parser)
    parser.set_defaults(run=run)


def _day(text: str) -> date:
    try:
        return date.fromisoformat(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” must be a day like 2026-11-15") from None


def _span(text: str) -> tuple[float, float]:
    low, dots, high = text.partition("..")
    try:
        found = float(low), float(high)
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” must be like -130..-50") from None
    if not dots or found[0] >= found[1]:
        raise argparse.ArgumentTypeError(f"“{text}” must be like -130..-50, the lower first")
    return found


def run(parsed: argparse.Namespace) -> int:
    """Read the logs, ask what cannot be known, print what was asked for."""
    settings = _Settings(parsed)
    logs = [_read(path, settings) for path in parsed.files]
    questions = [f"{log.path}: {q.text} {q.how}" for log in logs for q in log.proposal.questions]
    if parsed.keep:
        named = [NamedRecipe(made_for=log.path.name, recipe=log.proposal.recipe) for log in logs]
        parsed.keep.write_text(recipe_text(named), encoding="utf-8")
    if questions:
        return _ask(questions, logs, parsed)
    sources = [
        Source(name=str(log.path), told=settings.constants(log.path).rows(log.lines.told))
        for log in logs
    ]
    aligned = align(sources, {str(log.path) for log in logs if settings.is_auto(log.path)})
    settings.timeline, by_track = frames_way.measured(parsed, logs, sources, settings.timeline)
    found = gather(
        sources,
        timeline=settings.timeline,
        track=settings.track,
        sending=Sending(interval_s=parsed.interval, per_visit=parsed.sent_per_visit),
    )
    questions = list(_unanswered(logs, found, aligned, settings))
    if questions:
        return _ask(questions, logs, parsed)
    if parsed.csv:
        sys.stdout.writelines(log_lines(found.rows, dated_from_s=_first_real_time()))
    if parsed.explain or not parsed.csv:
        out = sys.stderr if parsed.csv else sys.stdout
        out.writelines(f"{line}\n" for line in explain(logs, found, aligned))
        out.writelines(f"{line}\n" for line in by_track.words())
    if parsed.stops_out:
        by_track.write(parsed.stops_out)
    return 0


def _ask(questions: Sequence[str], logs: Sequence[LogRead], parsed: argparse.Namespace) -> int:
    if parsed.explain:
        sys.stderr.writelines(f"{line}\n" for log in logs for line in told_of(log))
    for text in dict.fromkeys(questions):
        sys.stderr.write(f"inchmark frames: {text}\n")
    return ASKED


class _Settings:
    """What the command line says of files, clocks and places."""

    def __init__(self, parsed: argparse.Namespace) -> None:
        self.zone: timezone = zone_of(parsed.zone) if parsed.zone else UTC
        self.day: date | None = parsed.date
        self.percent = parsed.percent
        self.files: list[Path] = parsed.files
        self.sets = [self._set(text) for text in parsed.set]
        self.clocks = dict(self._clock(text) for text in parsed.clock)
        self.recipes = read_recipes(parsed.recipe.read_bytes()) if parsed.recipe else []
        self.timeline = Timeline(())
        if parsed.timeline:
            data = parsed.timeline.read_bytes()
            self.timeline = Timeline(read_timeline(data, zone=self.zone, day=self.day or UNDATED))
        self.track = Track(read_track(parsed.track.read_bytes())) if parsed.track else None

    def _named(self, name: str) -> Path:
        found = [p for p in self.files if str(p) == name] or [
            p for p in self.files if name in (p.name, p.stem)
        ]
        if not found:
            raise ValueError(f"{name} is none of the files given.")
        return found[0]

    def _set(self, text: str) -> tuple[Path | None, Meaning, str]:
        left, equals, value = text.partition("=")
        file, colon, name = left.rpartition(":")
        if not equals or name not in SETTABLE:
            raise ValueError(
                f"--set {text}: write [FILE:]FIELD=VALUE; fields are {', '.join(SETTABLE)}."
            )
        return (self._named(file) if colon else None), SETTABLE[name], value

    def _clock(self, text: str) -> tuple[Path, str]:
        file, equals, value = text.rpartition("=")
        if not equals:
            raise ValueError(f"--clock {text}: write FILE=SECONDS, or FILE=auto.")
        if value != "auto" and ":" not in value:
            try:
                float(value)
            except ValueError:
                raise ValueError(f"--clock {text}: “{value}” is no number of seconds.") from None
        return self._named(file), value

    def constants(self, path: Path) -> Constants:
        """Return what a file stands for; what is said of it alone goes before what is said of all."""
        for_all = {meaning: value for file, meaning, value in self.sets if file is None}
        own = {meaning: value for file, meaning, value in self.sets if file == path}
        return Constants(values=for_all | own)

    def is_auto(self, path: Path) -> bool:
        """Tell whether a file's clock is to be found from frames both ends know."""
        return self.clocks.get(path) == "auto"

    def clocking(self, path: Path, recipe: Recipe, first: str) -> Clocking:
        """Return what is known of a file's clock."""
        said = self.clocks.get(path, "")
        day = self.day or UNDATED
        if said == "auto":
            return Clocking(zone=self.zone, day=day, anchor_s=0.0)
        if ":" in said:
            kind = Kind.FULL if "-" in said else Kind.CLOCK
            moment = Clock(kind, zone=self.zone, day=day).read(said)
            return Clocking(zone=self.zone, day=day, anchor_s=(moment or 0.0) - _seconds(first))
        midnight = Clock(Kind.CLOCK, zone=self.zone, day=day).read("0:00:00")
        anchor = midnight if said else None
        return Clocking(zone=self.zone, day=day, shift_s=float(said or 0), anchor_s=anchor)


def _seconds(stamp: str) -> float:
    """Return the seconds since the start of a first stamp like +1234 or +12.5s."""
    if not stamp:
        return 0.0
    clock = Clock(Kind.UP_S if "." in stamp or stamp.endswith("s") else Kind.UP_MS, anchor_s=0.0)
    return clock.read(stamp) or 0.0


def _first_real_time() -> float:
    """Return the moment before which a time bears no date anybody gave."""
    return Clock(Kind.CLOCK, day=UNDATED).read("96:00:00") or 0.0


def _read(path: Path, settings: _Settings) -> LogRead:
    sample = _sample(path)
    if settings.recipes:
        proposal = Proposal(recipe=_best(settings.recipes, sample))
    else:
        proposal = propose(sample, Told(percent=settings.percent))
    log = LogRead(path, proposal)
    first = next((s for s in map(_stamp_of, sample) if s), "")
    reader = Reader(proposal.recipe, settings.clocking(path, proposal.recipe, first))
    for line in console_lines(file_blocks(path)):
        for event in reader.read(line.number, line.text):
            log.lines.take(event)
    for event in reader.end():
        log.lines.take(event)
    log.fell_back = reader.fell_back
    return log


def _stamp_of(line: str) -> str:
    from inchmark.core.recipe.pieces import taken_apart
    from inchmark.core.recipe.text import plain

    return taken_apart(plain(line)).stamp


def _sample(path: Path) -> list[str]:
    return sample_of(line.text for line in console_lines(file_blocks(path)))


def _best(recipes: Sequence[NamedRecipe], sample: Sequence[str]) -> Recipe:
    """Return the recipe that finds most frames in a log, fewest lines damaged."""

    def finds(named: NamedRecipe) -> tuple[int, int]:
        reader = Reader(named.recipe, Clocking(zone=UTC, day=UNDATED, anchor_s=0.0))
        events = [e for i, line in enumerate(sample[:2000], 1) for e in reader.read(i, line)]
        told = sum(isinstance(event, ToldLine) for event in events)
        return told, -sum(isinstance(event, Damaged) for event in events)

    return max(recipes, key=finds).recipe


def _unanswered(
    logs: Sequence[LogRead],
    found: Gathered,
    aligned: dict[str, tuple[float, int] | None],
    settings: _Settings,
) -> Iterator[str]:
    for name, step in aligned.items():
        if step is None:
            yield f"{name}: its clock cannot be set from frames both ends know, for fewer than three are known to both. Say --clock {Path(name).name}=SECONDS."
    if settings.timeline.stays or settings.track:
        yield from _untimed(logs)
    if settings.track and settings.day is None and any(_dateless(log) for log in logs):
        yield "The logs tell the time of day and the track tells dates. Which day was it? Say --date YYYY-MM-DD."
    yield from _missing(
        " ".join(log.path.name for log in logs), found, bool(settings.timeline.stays)
    )


def _missing(names: str, found: Gathered, timed: bool) -> Iterator[str]:  # noqa: FBT001
    if found.without_rig:
        yield f"{found.without_rig} frames of {names} name no rig and no sender. Which rig is it? Say --set FILE:rig=NAME, or name it in a timeline."
    if found.without_stop and not found.rows:
        where = "fall into no stay of the timeline" if timed else "name no stop"
        yield f"{found.without_stop} frames of {names} {where}. Where was it? Say --set FILE:stop=NAME, or give a timeline (--timeline FILE.csv with from, to, stop)."
    if found.without_count:
        yield f"{found.without_count} frames of {names} bear no counter, so it is not known how many were sent. Say --interval SECONDS, --sent-per-visit N, or give a timeline with a column sent."
    if not found.rows and not (found.without_rig or found.without_stop):
        yield f"No line of {names} is a frame."


def _untimed(logs: Sequence[LogRead]) -> Iterator[str]:
    for log in logs:
        if log.lines.told and all(told.time_s is None for told in log.lines.told):
            kinds = {use.kind for use in log.proposal.recipe.uses} | {log.proposal.recipe.stamp}
            if kinds & set(SINCE_START):
                yield f"{log.path}: it counts time since its start. When was that? Say --clock {log.path.name}=HH:MM:SS for its first line, or =auto."
            else:
                yield f"{log.path}: its lines bear no time, so a timeline or a track cannot place them. Say --set {log.path.name}:stop=NAME."


def _dateless(log: LogRead) -> bool:
    kinds = {use.kind for use in log.proposal.recipe.uses} | {log.proposal.recipe.stamp}
    return Kind.CLOCK in kinds and not kinds & {Kind.FULL, Kind.EPOCH_S, Kind.EPOCH_MS}
