"""Ten made sites of rising difficulty, and as many more as there are seeds."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

LOOK_ALIKE, ROAD = "look-alike", "road"
# what can be hidden beside the law of distance; the first five are the simulator's own traps
TRAPS = ("interference", "relay", "saturation", "bursts", "restart", LOOK_ALIKE, ROAD)
FREE = "free"


@dataclass(frozen=True, slots=True, kw_only=True)
class Offered:
    """A place the map offers to stand at: its true distance [m], and what a road sign says, if one does."""

    label: str
    name: str
    metres: float
    bearing_deg: float
    road_m: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Scenario:
    """A site to practise on. `rigs` are settings with antennas; A and B come first."""

    key: str
    level: int  # 1 the plainest, 10 the hardest
    title: str
    story: str
    question: str
    minutes: int
    needed_m: float
    exponent: float
    shadowing_db: float
    rigs: tuple[tuple[str, str], ...]
    traps: tuple[str, ...] = ()
    nearest_m: float = 40.0
    places: int = 8
    housing_db: float = 24.0  # what the boxes cost; little of it, and a near receiver is overdriven


CLOSE: dict[str, Any] = {
    "nearest_m": 1.2,
    "places": 9,
    "housing_db": 4.0,
}  # so near that −30 dBm is passed
COIL, WHIP = ("SF7 125 kHz", "stub coil"), ("SF7 125 kHz", "half-wave whip")
SLOW = ("SF10 125 kHz", "half-wave whip")

SCENARIOS = (
    Scenario(
        key="meadow", level=1, title="A plain meadow",
        story="Short grass, nobody else on the air, a fence post every few metres. Two antennas on the same board.",
        question="Which antenna reaches farther, and by how many dB?",
        minutes=80, needed_m=500, exponent=2.7, shadowing_db=2.0, rigs=(COIL, WHIP),
    ),
    Scenario(
        key="orchard", level=2, title="Rows of old trees",
        story="The trees cost every path something, and each place something of its own. Two settings of one board.",
        question="Does the slow setting reach the far gate, and does the fast one?",
        minutes=80, needed_m=420, exponent=3.4, shadowing_db=3.5, rigs=(WHIP, SLOW),
    ),
    Scenario(
        key="yard", level=3, title="The yard with a strong start",
        story="You begin beside the mast. What a receiver reads there is not what arrives.",
        question="Which antenna reaches farther?",
        minutes=60, needed_m=260, exponent=3.9, shadowing_db=3.0, rigs=(COIL, WHIP),
        traps=("saturation",), **CLOSE,
    ),
    Scenario(
        key="lane", level=4, title="The lane along the river",
        story="One place is known from a road sign. Roads bend.",
        question="How far does each rig reach?",
        minutes=60, needed_m=600, exponent=2.9, shadowing_db=3.0, rigs=(WHIP, SLOW), traps=(ROAD,),
    ),
    Scenario(
        key="market", level=5, title="The market at noon",
        story="Around noon somebody else is on the air, for a third of the time you are out.",
        question="Which setting is safe for the far stall?",
        minutes=60, needed_m=380, exponent=3.2, shadowing_db=3.5, rigs=(WHIP, SLOW), traps=("interference",),
    ),
    Scenario(
        key="estate", level=6, title="The estate with helpful neighbours",
        story="A node of the neighbours repeats what it hears. Its frames look like yours.",
        question="How far does A reach by itself?",
        minutes=60, needed_m=450, exponent=3.3, shadowing_db=3.5, rigs=(COIL, WHIP), traps=("relay",),
    ),
    Scenario(
        key="bench", level=7, title="The second board",
        story="Both boards carry the same print. On the bench they were held side by side, and the check is on the shelf.",
        question="Is B’s antenna really no better?",
        minutes=50, needed_m=450, exponent=3.1, shadowing_db=3.0, rigs=(COIL, WHIP), traps=(LOOK_ALIKE,),
    ),
    Scenario(
        key="quay", level=8, title="The quay with a loose lead",
        story="Frames go missing several in a row, at any level, and once a board begins anew.",
        question="Which antenna reaches farther, and are your limits honest?",
        minutes=50, needed_m=500, exponent=2.8, shadowing_db=3.0, rigs=(COIL, WHIP), traps=("bursts", "restart"),
    ),
    Scenario(
        key="quarry", level=9, title="The quarry",
        story="Steep slope, places that differ, a road sign, and lorries with radios of their own. Little time.",
        question="What do you dare to promise for 300 m?",
        minutes=40, needed_m=300, exponent=3.7, shadowing_db=5.5, rigs=(COIL, WHIP, SLOW), traps=(ROAD, "interference"),
    ),
    Scenario(
        key="harbour", level=10, title="The harbour, everything at once",
        story="A strong start, a repeater, somebody on the air, a sign at the road. Short of time, as always.",
        question="Which rig would you order two hundred of?",
        minutes=40, needed_m=300, exponent=3.9, shadowing_db=4.5, rigs=(COIL, WHIP, SLOW),
        traps=("saturation", "relay", "interference", ROAD), **CLOSE,
    ),
)  # fmt: skip
BY_KEY = {one.key: one for one in SCENARIOS}


def scenario_of(key: str, seed: int) -> Scenario:
    """Return a made scenario, or one drawn from a seed where the key is “free”.

    Raises
    ------
    KeyError
        There is none of that name.
    """
    if key != FREE:
        return BY_KEY[key]
    random = np.random.default_rng([seed, 77])
    count = int(random.integers(0, 4))
    traps = tuple(str(one) for one in random.choice(TRAPS, size=count, replace=False))
    close = CLOSE if "saturation" in traps else {}
    return Scenario(
        key=FREE, level=2 + 2 * count, title=f"Site {seed}",
        story="Drawn from its number. Nobody knows it beforehand, nor whether anything is hidden in it.",
        question="Which rig reaches how far?", minutes=int(random.integers(40, 90)),
        needed_m=float(random.choice([300, 400, 500, 700])),
        exponent=round(float(random.uniform(*((3.6, 4.1) if close else (2.5, 3.8)))), 2),
        shadowing_db=round(float(random.uniform(1.5, 5.5)), 1),
        rigs=(COIL, WHIP, SLOW)[: int(random.integers(2, 4))], traps=traps,
        **close,
    )  # fmt: skip


def offered(scenario: Scenario, seed: int) -> list[Offered]:
    """Return the places of a scenario, from near to far: some beyond what is needed."""
    random = np.random.default_rng([seed, 11])
    metres = np.geomspace(scenario.nearest_m, scenario.needed_m * 2.2, scenario.places)
    metres[1:] *= random.uniform(0.93, 1.07, scenario.places - 1)
    bearings = 40.0 + random.uniform(-12, 12, scenario.places)
    names = (
        "gate",
        "stile",
        "lone tree",
        "milk stand",
        "bend",
        "culvert",
        "barn",
        "crossing",
        "ridge",
    )
    signed = scenario.places - 3 if ROAD in scenario.traps else -1
    return [
        Offered(
            label=str(i + 1), name=names[i % len(names)], metres=round(float(at), 1),
            bearing_deg=round(float(bearing), 1),
            road_m=round(float(at) * 1.35, -1) if i == signed else None,
        )
        for i, (at, bearing) in enumerate(zip(metres, bearings, strict=True))
    ]  # fmt: skip
