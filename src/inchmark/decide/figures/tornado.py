"""What the count of served places hangs on, in words and bars, and what would narrow it."""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.deciding.influence import Influence, influences, shifted
from inchmark.core.reading.guidance import ENOUGH
from inchmark.core.reading.result import Reading
from inchmark.core.wording import number, percent
from inchmark.decide.figures.mends import Basis
from inchmark.pages.plot import Axis

WIDTH, ROW = 320.0, 22.0
NOISE_DB, HEIGHT_M = 3.0, 1.0  # common practice: a busier band, a mast that came out otherwise
LEAST = 0.05  # of a place: a bar shorter says nothing

NAMES = {
    "level": ("Level over threshold", "dB at the middle place"),
    "threshold": ("Threshold", "dBm, half of the frames lost"),
    "exponent": ("Path-loss exponent", ""),
    "places": ("Spread between places", "dB"),
    "frames": ("Spread of frames at a place", "dB"),
    "floor": ("Lost whatever the level", "%"),
    "walls": ("What walls cost", "times what is said of them"),
    "noise": ("Noise at the fixed end", "dB against the walk"),
    "mast": ("Height of the fixed end", "m"),
}
NARROWS = {
    "exponent": "one more stop far from the others",
    "places": "more stops at different places",
    "frames": "more frames at a stop where some are lost",
    "floor": "more frames close by, where level loses none",
    "walls": "more stops behind walls, some no farther off than others before them",
    "noise": "logging noise at the fixed end over a day",
    "mast": "measuring the height",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Bar:
    """An item's bar: from one count to the other, and what stands at each end."""

    name: str
    low: str
    high: str
    served: str
    x: float
    width: float
    low_x: float
    narrows: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Tornado:
    """The bars, the strongest first, over an axis of places served."""

    bars: list[Bar]
    now_x: float
    width: float
    height: float


def tornado(basis: Basis, reading: Reading | None) -> Tornado | None:
    """Return what the count hangs on; None where nothing moves it."""
    found = [*influences(basis.draws, basis.loss), *_not_drawn(basis)]
    found = sorted((one for one in found if one.swing >= LEAST), key=lambda one: -one.swing)
    if not found:
        return None
    now = sum(basis.now.chances)
    ends = [now, *(x for one in found for x in (one.served_low, one.served_high))]
    axis = Axis(low=min(ends), high=max(ends), start=0, end=WIDTH)
    return Tornado(
        bars=[_bar(one, axis, basis, reading) for one in found],
        now_x=axis.at(now),
        width=WIDTH,
        height=ROW,
    )


def _not_drawn(basis: Basis) -> list[Influence]:
    mast = basis.ground.mast_m
    lower = max(mast - HEIGHT_M, 0.3)
    return [
        shifted("noise", basis.draws, basis.loss, (NOISE_DB, -NOISE_DB), (-NOISE_DB, NOISE_DB)),
        shifted(
            "mast", basis.draws, basis.loss,
            (lower, basis.ground.raised(lower)), (mast + HEIGHT_M, basis.ground.raised(mast + HEIGHT_M)),
        ),
    ]  # fmt: skip


def _bar(one: Influence, axis: Axis, basis: Basis, reading: Reading | None) -> Bar:
    name, unit = NAMES[one.item]
    ends = axis.at(one.served_low), axis.at(one.served_high)
    return Bar(
        name=f"{name}, {unit}" if unit else name,
        low=_value(one.item, one.low),
        high=_value(one.item, one.high),
        served=f"{number(one.served_low, 1)} to {number(one.served_high, 1)}",
        x=min(ends),
        width=max(abs(ends[1] - ends[0]), 1.0),
        low_x=ends[0],
        narrows=_narrows(one.item, basis.rig.letter, reading),
    )


def _value(item: str, value: float) -> str:
    if item == "floor":
        return percent(value).removesuffix(" %")
    return number(value, 2 if item in ("exponent", "walls") else 1, sign=item == "noise")


def _narrows(item: str, letter: str, reading: Reading | None) -> str:
    """Return what would narrow an item; of level and threshold, what of this walk is weakest."""
    if item not in ("level", "threshold"):
        return _with_guidance(item, reading)
    rig = reading.of_rig(letter) if reading else None
    if rig is not None and not rig.edge_reached:
        return f"a conducted ladder for {letter}, or a stop at its edge: its threshold rests on datasheet or bench alone"
    return f"more frames of {letter} where some are lost"


def _with_guidance(item: str, reading: Reading | None) -> str:
    guided = reading.guidance if reading else None
    if item in ("exponent", "places") and guided and guided.verdict != ENOUGH:
        return guided.sentence
    return NARROWS[item]
