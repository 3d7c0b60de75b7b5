"""What a centring says, what is wrong with it, and what is still to be done."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from inchmark.core.bench.centring import SATURATED_DBM, Centring, OffsetStep
from inchmark.core.wording import listed, number, plural
from inchmark.shelf import models
from inchmark.shelf.adapters.bench import centred, core_edges, core_steps, in_hertz, scale_of
from inchmark.shelf.adapters.walked import FailingStop

WRITTEN, PAIRED, MIDDLE, STOP = "written", "paired", "middle", "stop "
TODO = {
    WRITTEN: "Write the offset to both ends that share this receiver, and read it back.",
    PAIRED: "If the ends pair, pair them again: pairing can bring the old offset back.",
    MIDDLE: "Stand where the edges were found, at the new middle, and count frames.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Todo:
    """Something to do after a centring: its key, the words, what came of it; `url` of a visit."""

    key: str
    do: str
    done: str
    url: str = ""

    @property
    def counts(self) -> bool:
        """Tell whether frames are counted at it."""
        return self.key == MIDDLE


@dataclass(frozen=True, slots=True, kw_only=True)
class CentringResult:
    """What a centring says, and what is wrong with it; steps go up with the offset."""

    steps: list[OffsetStep]
    found: Centring | None
    problem: str
    small_margin: bool
    saturated: bool
    middle: str
    limits: str
    facts: list[tuple[str, str]]
    directions: str
    todo: list[Todo]

    @property
    def open(self) -> int:
        """Return how much is still to be done."""
        return sum(not one.done for one in self.todo)


def centring_result(check: models.Centring, failing: Sequence[FailingStop] = ()) -> CentringResult:
    """Return what a centring says; `failing` are the stops at which its rig fell short."""
    found, problem = None, ""
    try:
        found = centred(check)
    except ValueError as wrong:
        problem = f"{wrong}."
    show = _Show(check)
    return CentringResult(
        steps=sorted(core_steps(check), key=lambda step: step.offset_hz),
        found=found,
        problem=problem[:1].upper() + problem[1:],
        small_margin=bool(found and in_hertz(check) and found.small_margin(check.drift_ppm)),
        saturated=check.level_dbm is not None and check.level_dbm > SATURATED_DBM,
        middle=show.at(found.middle_hz) if found else "",
        limits=_limits(check, found, show) if found else "",
        facts=_facts(check, found, show) if found else [],
        directions=_directions(check, show),
        todo=_todo(check, failing) if found else [],
    )


class _Show:
    """Says an offset in kHz, or in the module’s own steps, with kHz beside where a step’s size is known."""

    def __init__(self, check: models.Centring) -> None:
        self.own, self.known, self.scale = check.in_steps, in_hertz(check), scale_of(check)

    def at(self, value: float) -> str:
        kilo = f"{number(value / 1e3, 2).rstrip('0').removesuffix('.')} kHz"
        if not self.own:
            return kilo
        steps = value / self.scale
        count = number(steps, 0 if abs(steps - round(steps)) < 1e-6 else 1)
        words = f"{count} step{'' if abs(abs(steps) - 1) < 1e-6 else 's'}"
        return f"{words} ({kilo})" if self.known else words


def _limits(check: models.Centring, found: Centring, show: _Show) -> str:
    words = f"±{show.at(found.plus_minus_hz)}"
    return f"{words}; {number(found.ppm)} ppm" if in_hertz(check) else words


def _facts(check: models.Centring, found: Centring, show: _Show) -> list[tuple[str, str]]:
    facts = [
        ("held from", f"{show.at(found.low_held_hz)} … {show.at(found.high_held_hz)}"),
        ("to the nearer edge", show.at(found.half_width_hz)),
    ]
    if in_hertz(check):
        left = show.at(found.margin_hz(check.drift_ppm))
        facts.append((f"left after {number(check.drift_ppm, 0)} ppm", left))
    return facts


def _directions(check: models.Centring, show: _Show) -> str:
    """Return what the two directions say apart, empty where steps were counted."""
    try:
        edges = core_edges(check)
    except ValueError:
        return ""
    if edges is None:
        return ""
    low, high = edges.hysteresis
    return f"Outwards the middle is {show.at(edges.outwards)}, inwards {show.at(edges.inwards)}. The receiver holds on {show.at(low)} farther below and {show.at(high)} farther above than it comes back; the width counts from where it comes back."


def _todo(check: models.Centring, failing: Sequence[FailingStop]) -> list[Todo]:
    found = [Todo(key=key, do=do, done=_done(check.done.get(key))) for key, do in TODO.items()]
    for one in failing:
        key = f"{STOP}{one.stop}"
        do = f"Walk stop {one.stop} again: {one.words}."
        found.append(Todo(key=key, do=do, done=_done(check.done.get(key)), url=one.url))
    named = {one.key for one in found}
    for key, what in check.done.items():
        if key not in named:  # a stop that does not fail any more
            found.append(Todo(key=key, do=f"Walk {key} again.", done=_done(what)))
    return found


def _done(what: Mapping[str, object] | None) -> str:
    if not what:
        return ""
    words = [f"done {what.get('on')}", f"by {what.get('by')}"]
    if what.get("sent"):
        words.insert(
            0, f"{what.get('heard')} of {plural(int(str(what.get('sent'))), 'frame')} heard"
        )
    return listed(words) if len(words) > 2 else " ".join(words)
