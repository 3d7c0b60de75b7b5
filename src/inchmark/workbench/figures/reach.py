"""How far a link should reach, from its figures alone: a bracket, and what bounds it."""

from __future__ import annotations

import math

from inchmark.core.constants import EARTH_RADIUS_M
from inchmark.core.expected_reach import expected_reach
from inchmark.core.link import Link
from inchmark.core.prediction import EXPONENTS, Surroundings
from inchmark.core.propagation.geometry import MEDIAN_K, earth_bulge_m, fresnel_radius_m
from inchmark.core.propagation.two_ray import break_distance_m
from inchmark.core.wording import decibels, distance, number, percent
from inchmark.workbench.figures.answers import Answers, Line, Reach

MODELS = {
    "free_space": ("free space", "free space, Friis 1946"),
    "two_ray": ("flat ground", "two rays over flat ground, vertical"),
    **{name: (name, f"log-distance, n = {n:g} (common practice)") for name, n in EXPONENTS.items()},
}


def reach_answers(
    *,
    power_dbm: float,
    gains_dbi: float,
    losses_db: float,
    sensitivity_dbm: float,
    frequency_hz: float,
    height1_m: float,
    height2_m: float,
    surrounding: str,
    loss: float,
    places: float,
) -> Answers:
    """Return the bracket of a link's range.

    Levels [dBm]; both antennas' gains and both ends' losses are sums [dB]; heights above ground [m];
    `loss` and `places` are the rule: the share of frames that may be lost at a share of places.
    """
    link = Link(
        reference_dbm=power_dbm + gains_dbi - losses_db, threshold_dbm=sensitivity_dbm,
        height1_m=height1_m, height2_m=height2_m, frequency_hz=frequency_hz,
    )  # fmt: skip
    named = surrounding in EXPONENTS
    site = Surroundings(
        model="log_distance" if named else surrounding,
        openness=surrounding if named else "middling",
    )
    found = expected_reach(link, site, loss=loss, places=places)
    horizon = _horizon_m(height1_m) + _horizon_m(height2_m)
    lines = [
        Line(what="path loss the link can take", value=decibels(link.allowed_path_loss_db), formula="power + gains − losses − sensitivity", source="budget"),
        Line(what="pessimistic", value=distance(found.low_m), formula="all paths lose one spread (6 dB) more", source="common practice"),
        Line(what="typical", value=distance(found.middle_m), formula=f"{percent(loss)} lost at most at {percent(places)} of the places", source=MODELS[surrounding][1]),
        Line(what="optimistic", value=distance(found.high_m), formula="all paths lose one spread (6 dB) less", source="common practice"),
        Line(what="radio horizon", value=distance(horizon), formula="√(2 k R h) for each end, k = 4/3", source="ITU-R P.310"),
        *_of_ground(link, found.middle_m),
    ]  # fmt: skip
    return Answers(
        lines=lines,
        says=list(_says(found.middle_m, horizon)),
        reach=Reach(low_m=found.low_m, middle_m=found.middle_m, high_m=found.high_m),
    )


def _of_ground(link: Link, middle_m: float) -> list[Line]:
    turns = float(break_distance_m(link.height1_m, link.height2_m, link.frequency_hz))
    half = middle_m / 2
    bulge = float(earth_bulge_m(half, half))
    radius = float(fresnel_radius_m(half, half, link.frequency_hz))
    return [
        Line(what="break distance", value=distance(turns), formula="4 h1 h2 / λ; beyond it flat ground costs 40 dB a decade", source="two rays"),
        Line(what="earth’s bulge midway of the typical range", value=distance(bulge) if bulge >= 1 else f"{100 * bulge:.2g} cm", formula="d1 d2 / (2 k R)", source="ITU-R P.310"),
        Line(what="first Fresnel zone midway", value=f"{distance(radius)} in radius", formula="√(λ d1 d2 / (d1 + d2))", source="ITU-R P.526"),
    ]  # fmt: skip


def _horizon_m(height_m: float) -> float:
    return math.sqrt(2 * MEDIAN_K * EARTH_RADIUS_M * height_m)


def _says(middle_m: float, horizon_m: float) -> list[str]:
    said = ["No walk stands behind this: it is what surroundings of the kind usually cost."]
    if middle_m > horizon_m:
        said.append(
            f"The typical range lies {number(middle_m / horizon_m)} times beyond the radio horizon; there the earth stands between, and it will be shorter."
        )
    return said
