"""Time of one fit against the fit of an earlier revision, and how far their answers lie apart.

Usage: .venv/bin/python -m bench.fit [--against REV] [--studies 30]
Both run on one core over the same invented studies of 4 rigs x 10 stops x 200 frames, each in a
process of its own, in turn; printed are medians, their ratio, and the difference of ranges in
interval widths. The earlier revision is one whose fit knows rigs and no links (before model 2).
"""

from __future__ import annotations

import argparse
import json
import os
import subprocess
import sys
import tarfile
import tempfile
from io import BytesIO
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[1]
LAST_OF_MODEL_1 = "6332886"
SIZES = 'RIGS, STOPS, FRAMES = "ABCD", 10, 200'
LARGE = 'RIGS, STOPS, FRAMES = "ABCDEFGHIJKL", 40, 60'
STUDIES = """
import json, sys, time
import numpy as np
from inchmark.core.simulation import SimulatedRig, SimulatedSite, SimulatedWalk
from inchmark.core.reception.visit import VisitFrames, summarise_visit
from inchmark.core.link_model.data import FitVisit
from inchmark.core.link_model.fit import fit_link_model

RIGS, STOPS, FRAMES = "ABCD", 10, 200

def study(seed):
    random = np.random.default_rng(seed)
    rigs = {r: SimulatedRig(level_at_1m_dbm=-20 + random.normal(0, 3), threshold_dbm=-112) for r in RIGS}
    site = SimulatedSite(exponent=3.2, sigma_s_db=5, sigma_e_db=2, sigma_t_db=0.7, floor=0.005)
    walk = SimulatedWalk(site, rigs, random)
    for i, d in enumerate(np.geomspace(25, 1000, STOPS)):
        for rig in rigs:
            rows = list(walk.visit(rig, str(i), float(d), FRAMES))
            column = lambda name: np.array([np.nan if (x := getattr(r, name)) is None else x for r in rows])
            frames = VisitFrames(seq=np.array([r.seq for r in rows]), heard=np.array([r.heard for r in rows]),
                rssi_dbm=column("rssi_dbm"), snr_db=column("snr_db"), noise_dbm=column("noise_dbm"),
                time_s=column("time_s"))
            yield rig, str(i), float(d), summarise_visit(frames)
"""
NEW = (
    STUDIES
    + """
from inchmark.core.link_model.data import LinkKey, LinkPrior
from inchmark.core.link_model.ranges import loss_range_m
def fit(rows):
    visits = [FitVisit(link=LinkKey(r), stop=s, distance_m=d, condition="", summary=x) for r, s, d, x in rows]
    priors = {LinkKey(r): LinkPrior(module_type="m", sensitivity_dbm=-112) for r in RIGS}
    p = fit_link_model(visits, priors, random=np.random.default_rng(1)).posterior
    return [loss_range_m(p, LinkKey(r)) for r in RIGS]
"""
)
OLD = (
    STUDIES
    + """
from inchmark.core.link_model.data import RigPrior
from inchmark.core.reception.bursts import autocorrelation_time
def fit(rows):
    visits = [FitVisit(rig=r, stop=s, distance_m=d, condition="", summary=x) for r, s, d, x in rows]
    priors = {r: RigPrior(module_type="m", sensitivity_dbm=-112) for r in RIGS}
    tau = autocorrelation_time([v.summary.runs for v in visits])
    p = fit_link_model(visits, priors, pooled_tau=tau, random=np.random.default_rng(1)).posterior
    return [p.loss_range_m(r) for r in RIGS]
"""
)
RUN = """
for line in sys.stdin:
    rows = list(study(int(line)))
    began = time.perf_counter()
    found = fit(rows)
    seconds = time.perf_counter() - began
    print(json.dumps([seconds, [[r.estimate, r.low, r.high] for r in found]]), flush=True)
"""


def main() -> None:
    """Print both medians, their ratio and the difference of answers."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--against", default=LAST_OF_MODEL_1)
    parser.add_argument("--studies", type=int, default=30)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        packed = subprocess.run(
            ["git", "archive", asked.against, "src"], cwd=ROOT, check=True, capture_output=True
        ).stdout
        with tarfile.open(fileobj=BytesIO(packed)) as archive:
            archive.extractall(folder, filter="data")
        new, old = _process(NEW, ROOT / "src"), _process(OLD, Path(folder) / "src")
        pairs = [(_one(new, seed), _one(old, seed)) for seed in range(asked.studies)]
        for process in (new, old):
            process.communicate()
    times = np.array([[a[0], b[0]] for a, b in pairs])[1:]  # the first warms up
    off = [
        abs(np.log(x[0] / y[0])) / np.log(y[2] / y[1])
        for a, b in pairs
        for x, y in zip(a[1], b[1], strict=True)
    ]
    now, before = np.median(times, axis=0)
    print(
        f"fit, 4 rigs x 10 stops x 200 frames: {now:.2f} s, before {before:.2f} s, ratio {now / before:.2f}"
    )
    large = _process(NEW.replace(SIZES, LARGE), ROOT / "src")
    took = [_one(large, seed)[0] for seed in range(4)][1:]
    large.communicate()
    print(f"fit, 12 links x 40 stops, 480 visits: {np.median(took):.2f} s (wanted: under 2)")
    print(f"ranges differ by {np.median(off):.3f} of an interval's width, at most {max(off):.3f}")


def _process(code: str, source: Path) -> subprocess.Popen[str]:
    single = {"OMP_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1", "PYTHONPATH": str(source)}
    return subprocess.Popen(
        [sys.executable, "-c", code + RUN],
        env={**os.environ, **single},
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )


def _one(process: subprocess.Popen[str], seed: int) -> list:
    if process.stdin is None or process.stdout is None:
        raise RuntimeError("the process has no pipes")
    process.stdin.write(f"{seed}\n")
    process.stdin.flush()
    found: list = json.loads(process.stdout.readline())
    return found


if __name__ == "__main__":
    main()
