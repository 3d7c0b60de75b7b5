"""What “enough” claims when somebody stops at it: shares of claims, frames needed, coverage.

    .venv/bin/python -m bench.enough [--visits 150]

Losses are drawn independently or in runs of four on average (a two-state chain). Somebody looks
every fifth frame from the tenth on and stops at the first “enough”, at 300 frames at the latest. The
rule is 10 % lost, the width wanted plus or minus 10 points, as a new plan has them.
"""

from __future__ import annotations

import argparse

import numpy as np
from numpy.typing import NDArray

from inchmark.core.live.enough import Wanted, enough_of
from inchmark.core.reception.bursts import loss_runs

SEED, LONGEST, FIRST, EVERY = 3, 300, 10, 5
LOSSES, RUNS = (0.02, 0.05, 0.1, 0.12, 0.15, 0.3, 0.6), (1, 4)
WANTED = Wanted(rule_loss=0.1, half=0.1)


def losses(random: np.random.Generator, share: float, run: int) -> NDArray[np.float64]:
    """Return losses of a visit: independent, or in runs of a mean length."""
    if run == 1:
        return (random.random(LONGEST) < share).astype(float)
    enter, lost = share / run / (1 - share), random.random() < share
    found = np.zeros(LONGEST)
    for i in range(LONGEST):
        found[i] = lost
        lost = random.random() < (1 - 1 / run if lost else enter)
    return found


def main() -> None:
    """Draw, stop, count."""
    parser = argparse.ArgumentParser(prog="bench.enough")
    parser.add_argument("--visits", type=int, default=150)
    visits, random = parser.parse_args().visits, np.random.default_rng(SEED)
    print("| loss | in runs of | within | over | by width | never | frames | limits hold |")
    print("|---|---|---|---|---|---|---|---|")
    for share in LOSSES:
        for run in RUNS:
            claims, frames, held = dict.fromkeys(("within", "over", "width", "never"), 0), [], 0
            for _ in range(visits):
                one = losses(random, share, run)
                for n in range(FIRST, LONGEST + 1, EVERY):
                    found = enough_of(int(one[:n].sum()), loss_runs(one[:n]), WANTED)
                    if found.more == 0:
                        claim = next((c for c in ("within", "over") if c in found.words), "width")
                        claims[claim] += 1
                        frames.append(n)
                        held += found.loss.low <= share <= found.loss.high
                        break
                else:
                    claims["never"] += 1
            cells = [f"{100 * count / visits:.0f} %" for count in claims.values()]
            cells += [f"{np.median(frames):.0f}", f"{100 * held / max(len(frames), 1):.0f} %"]
            print(f"| {100 * share:.0f} % | {run} | {' | '.join(cells)} |", flush=True)


if __name__ == "__main__":
    main()
