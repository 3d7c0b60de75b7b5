"""Half-width of an answer against the number of stops: guided, equal and geometric choices.

Usage: .venv/bin/python -m bench.guidance [--studies 20]
Invented studies begin with three stops; each further stop is the one guidance names, the next of an
even row, or the next of a geometric row, to 1 km. Printed: median 95 % half-width of the range of
the better rig (a factor) and of the difference (dB) after each stop.
"""

from __future__ import annotations

import argparse

import numpy as np

from inchmark.core.link_model.next_stop import Outlook, range_target
from inchmark.core.reading.analysis import Analysis, Walked, analyse_visits
from inchmark.core.reading.measured import MeasuredVisit, RigFacts, RigPrior, SiteFacts
from inchmark.core.reading.ranges import link_range
from inchmark.core.reception.visit import VisitFrames, VisitKey, summarise_visit
from inchmark.core.simulation import SimulatedRig, SimulatedSite, SimulatedWalk

FIRST, LAST, FRAMES = (40.0, 150.0, 500.0), 12, 100
EVEN = np.linspace(120, 1000, LAST - len(FIRST))
GEOMETRIC = np.geomspace(60, 1000, LAST - len(FIRST))
FACTS = {r: RigFacts(prior=RigPrior(module_type="m", sensitivity_dbm=-112)) for r in "AB"}


def main() -> None:
    """Print a table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--studies", type=int, default=20)
    studies = parser.parse_args().studies
    found = {
        way: [study(way, seed) for seed in range(studies)]
        for way in ("guided", "even", "geometric")
    }
    print("| stops | " + " | ".join(f"{way}: range ×/÷, difference ±dB" for way in found) + " |")
    print("|---" * (len(found) + 1) + "|")
    for i, stops in enumerate(range(len(FIRST), LAST + 1)):
        cells = [np.nanmedian([one[i] for one in rows], axis=0) for rows in found.values()]
        print(f"| {stops} | " + " | ".join(f"{a:.2f}, {b:.1f}" for a, b in cells) + " |")


def study(way: str, seed: int) -> list[tuple[float, float]]:
    """Return half-widths of range and difference after each stop of a walk."""
    random = np.random.default_rng([20_26, seed])
    rigs = {
        "A": SimulatedRig(level_at_1m_dbm=-19, threshold_dbm=-112),
        "B": SimulatedRig(level_at_1m_dbm=-21.5, threshold_dbm=-112),
    }
    walk = SimulatedWalk(SimulatedSite(exponent=3.2, sigma_s_db=5, sigma_e_db=2), rigs, random)
    visits, found = [], []
    distances = list(FIRST)
    analysis: Analysis | None = None
    for i in range(LAST):
        if i >= len(FIRST):
            distances.append(_next(way, i - len(FIRST), analysis))
        visits += [_visit(walk, rig, str(i), distances[i]) for rig in rigs]
        if i >= len(FIRST) - 1:
            analysis = analyse_visits(
                Walked(visits=tuple(visits), facts=FACTS, stops={}, site=SiteFacts())
            )
            found.append(_widths(analysis))
    return found


def _next(way: str, i: int, analysis: Analysis | None) -> float:
    if way != "guided" or analysis is None:
        return float((EVEN if way == "even" else GEOMETRIC)[i])
    p = analysis.posterior
    if p is None:
        return float(GEOMETRIC[i])
    link = next(one for one in analysis.links if one.rig == "A")
    target = range_target(p, link, loss=0.1, places=0.9)
    outlook = Outlook(p, target, list(analysis.links), FRAMES / analysis.tau)
    return min(outlook.best([float(d) for d in outlook.candidates_m()])[0], 3000.0)


def _widths(analysis: Analysis) -> tuple[float, float]:
    p = analysis.posterior
    if p is None:
        return float("nan"), float("nan")
    a, b = analysis.links
    reach, difference = link_range(analysis, a), p.margin_difference_db(a, b)
    factor = float(np.sqrt(reach.high / reach.low)) if reach else float("nan")
    return factor, (difference.high - difference.low) / 2


def _visit(walk: SimulatedWalk, rig: str, stop: str, metres: float) -> MeasuredVisit:
    rows = list(walk.visit(rig, stop, metres, FRAMES))
    frames = VisitFrames(
        seq=np.array([r.seq for r in rows]),
        heard=np.array([r.heard for r in rows]),
        rssi_dbm=np.array([np.nan if r.rssi_dbm is None else r.rssi_dbm for r in rows]),
        snr_db=np.full(len(rows), np.nan),
        noise_dbm=np.array([r.noise_dbm for r in rows]),
        time_s=np.full(len(rows), np.nan),
    )
    return MeasuredVisit(
        key=VisitKey(rig=rig, stop=stop), distance_m=metres, summary=summarise_visit(frames)
    )


if __name__ == "__main__":
    main()
