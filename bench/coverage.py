"""How often 95 % limits hold the truth, regime by regime, and how often notes are wrong.

Usage: .venv/bin/python -m bench.coverage [--studies 200] [--regime NAME] [--processes 2]
Each regime is so many invented studies read as a user's would be. Printed: coverage with its own
95 % limits (Wilson), bias of the range as a factor (median of estimate over truth), width (median
factor from low to high), and for each note how often it was given where it is false, and missed
where it is true. Minutes for each regime; all of it is in docs/method.md.
"""

from __future__ import annotations

import argparse
from collections import defaultdict
from multiprocessing import Pool

import numpy as np

from bench.invented import THETA_DBM, Regime, Truth, invent, regimes
from inchmark.core.interval import Estimate
from inchmark.core.link_model.data import LinkKey
from inchmark.core.reading.analysis import Walked
from inchmark.core.reading.reading import read_visits
from inchmark.core.reading.result import Flag, Reading, VisitReading
from inchmark.core.reading.rules import ANY, RangeRules
from inchmark.core.reception.proportion import wilson
from inchmark.core.reception.visit import VisitKey

KINDS = (
    "range",
    "exchange",
    "any",
    "exponent",
    "margin",
    "level",
    "threshold",
    "loss",
    "visit level",
)
Hits = dict[str, list[bool]]


def main() -> None:
    """Print a table row for each regime."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--studies", type=int, default=200)
    parser.add_argument("--regime", action="append", choices=[*regimes()])
    parser.add_argument("--processes", type=int, default=2)
    wanted = parser.parse_args()
    names = wanted.regime or [*regimes()]
    print("| regime | " + " | ".join(KINDS) + " | bias | width | no range | notes |")
    print("|---" * (len(KINDS) + 5) + "|")
    with Pool(wanted.processes) as pool:
        for name in names:
            jobs = [(name, seed) for seed in range(wanted.studies)]
            print(row(name, pool.starmap(study, jobs, chunksize=4)), flush=True)


def study(name: str, seed: int) -> tuple[Hits, list[float], list[float], int, dict[str, bool]]:
    """Return what one invented study hit, its range factors and widths, and its notes."""
    regime = regimes()[name]
    walked, truth = invent(regime, seed)
    reading = read_visits(walked)
    hits: Hits = defaultdict(list)
    bias, width, without = [], [], 0
    for link in reading.links:
        key = LinkKey(link.rig, link.direction, link.receiver)
        if link.loss_range_m is None:
            without += 1
        else:
            hits["range"].append(_holds(link.loss_range_m, truth.range_m[key]))
            bias.append(link.loss_range_m.estimate / truth.range_m[key])
            width.append(link.loss_range_m.high / link.loss_range_m.low)
        if link.threshold_dbm:
            hits["threshold"].append(_holds(link.threshold_dbm, truth.threshold[key]))
    if reading.site.exponent and truth.exponent:
        hits["exponent"].append(_holds(reading.site.exponent, truth.exponent))
    _together(walked, reading, truth, hits)
    _differences(reading, truth, hits)
    _visits(reading, truth, hits)
    return hits, bias, width, without, _notes(regime, reading, truth)


def _together(walked: Walked, reading: Reading, truth: Truth, hits: Hits) -> None:
    """Add the ranges of an exchange, and of any receiver."""
    for one in reading.exchanges:
        if one.range_m is not None:
            hits["exchange"].append(_holds(one.range_m, truth.exchange_m[one.rig, one.receiver]))
    if truth.any_m:
        for rig in read_visits(walked, rules=RangeRules(receiver=ANY)).rigs:
            if rig.loss_range_m is not None:
                hits["any"].append(_holds(rig.loss_range_m, truth.any_m[rig.rig]))


def _differences(reading: Reading, truth: Truth, hits: Hits) -> None:
    links = {(k.rig, k.direction, k.receiver): k for k in truth.level}
    for row in reading.differences:
        one, other = (links[rig, row.direction, row.receiver] for rig in (row.rig, row.against))
        cost = truth.penalty.get((row.rig, row.condition), 0.0)
        cost -= truth.penalty.get((row.against, row.condition), 0.0)
        level = truth.level[one] - truth.level[other] - cost
        margin = level - truth.threshold[one] + truth.threshold[other]
        if row.margin_db:
            hits["margin"].append(_holds(row.margin_db, margin))
        if row.signal_db:
            hits["level"].append(_holds(row.signal_db, level))


def _visits(reading: Reading, truth: Truth, hits: Hits) -> None:
    for visit in reading.visits:
        key = key_of(visit)
        if key in truth.disturbed or key in truth.jammed:
            continue
        hits["loss"].append(_holds(visit.loss, truth.visit_loss[key]))
        if visit.level_dbm:
            hits["visit level"].append(_holds(visit.level_dbm, truth.visit_level[key]))


def _notes(regime: Regime, reading: Reading, truth: Truth) -> dict[str, float]:
    """Return, for notes whose truth is known, how often they are wrong here: false or missed."""
    found: dict[str, list[bool]] = defaultdict(list)
    _flags(reading, truth, found)
    codes = {note.code for note in reading.notes}
    off = abs(float(np.mean([dbm - THETA_DBM for dbm in truth.threshold.values()])))
    if any(link.edge_shown for link in reading.links) and not 6 < off < 12:
        name = "datasheet missed" if off >= 12 else "datasheet false"
        found[name].append(("datasheet_conflict" in codes) != (off >= 12))
    bent = regime.rssi_slope != 1
    found["slope missed" if bent else "slope false"].append(("rssi_slope" in codes) != bent)
    for link in reading.links:
        losses = [
            loss
            for v, loss in truth.visit_loss.items()
            if (v.rig, v.direction, v.receiver) == (link.rig, link.direction, link.receiver)
        ]
        exists = any(0.02 < loss < 0.98 for loss in losses)
        found["edge missed" if exists else "edge false"].append(link.edge_shown != exists)
    return {name: float(np.mean(wrong)) for name, wrong in found.items()}


def _flags(reading: Reading, truth: Truth, found: dict[str, list[bool]]) -> None:
    """Add whether disturbed and jammed visits are flagged; weak ones cannot tell."""
    flags = {key_of(flag): flag.what for flag in reading.flags}
    for visit in reading.visits:
        key = key_of(visit)
        for what, told in (("interference", truth.disturbed), ("change", truth.jammed)):
            flagged = flags.get(key) == what
            if key in told and truth.visit_loss[key] < 0.3:
                found[f"{what} missed"].append(not flagged)
            elif key not in truth.disturbed | truth.jammed:
                found[f"{what} false"].append(flagged)


def key_of(row: VisitReading | Flag) -> VisitKey:
    """Return the visit a row is about."""
    return VisitKey(row.rig, row.stop, row.condition, row.direction, row.receiver)


def _holds(found: Estimate, true: float) -> bool:
    return found.low <= true <= found.high


def row(name: str, results: list) -> str:
    """Return the table row of a regime."""
    cells = []
    for kind in KINDS:
        every = [hit for hits, *_ in results for hit in hits.get(kind, [])]
        # one study is one draw: its rigs and visits hold or fail together
        by_study = [np.mean(hits[kind]) for hits, *_ in results if hits.get(kind)]
        if not every:
            cells.append("–")
            continue
        limits = wilson(sum(by_study), len(by_study))
        cells.append(
            f"{100 * np.mean(by_study):.0f} ({100 * limits.low:.0f}–{100 * limits.high:.0f})"
        )
    bias = [x for _, xs, *_ in results for x in xs]
    width = [x for _, _, xs, *_ in results for x in xs]
    without = sum(n for *_, n, _ in results)
    cells.append(f"{np.median(bias):.2f}" if bias else "–")
    cells.append(f"{np.median(width):.1f}" if width else "–")
    cells.append(str(without))
    wrong: dict[str, list[float]] = defaultdict(list)
    for *_, notes in results:
        for note, share in notes.items():
            wrong[note].append(share)
    told = [f"{n} {100 * np.mean(s):.1f}" for n, s in sorted(wrong.items()) if np.mean(s) > 0]
    cells.append(", ".join(told))
    return f"| {name} | " + " | ".join(cells) + " |"


if __name__ == "__main__":
    main()
