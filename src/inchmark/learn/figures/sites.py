"""The sites to practise on, and what is left of the time on one."""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.practice.scenarios import FREE, SCENARIOS, Scenario, scenario_of
from inchmark.core.wording import distance
from inchmark.learn.models import Practice
from inchmark.plan.models import Stop


@dataclass(frozen=True, slots=True, kw_only=True)
class Board:
    """A practice under way: its scenario, minutes allowed, used and left."""

    scenario: Scenario
    used: float
    left: float


def sites() -> tuple[Scenario, ...]:
    """Return the made sites, the plainest first."""
    return SCENARIOS


def choices() -> list[tuple[str, str]]:
    """Return what may be begun: the made sites, and one drawn from a number."""
    return [*((one.key, one.title) for one in SCENARIOS), (FREE, "Drawn from a number")]


def board_of(practice: Practice) -> Board:
    """Return how a practice stands."""
    scenario = scenario_of(practice.scenario, practice.seed)
    used = practice.minutes_used
    return Board(scenario=scenario, used=used, left=scenario.minutes - used)


def stop_distance(stop: Stop) -> str:
    """Return a stop's distance as it is typed, and how it was measured."""
    how = f" by {stop.get_method_display()}" if stop.method else ""
    return f"{distance(stop.distance_m)}{how}"
