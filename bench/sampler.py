"""The fit against an independent sampler on invented studies: no Laplace, no design, plain numpy.

Usage: .venv/bin/python -m bench.sampler [--studies 6] [--steps 6000]
The same posterior (one link a rig, one structure: independent stops) is walked by an affine-invariant
ensemble (Goodman and Weare 2010, from memory) over levels, slope, thresholds, shadowing and spreads,
the two locals of each visit among them. Printed: how far median and both limits of exponent, margin
difference, threshold and lg of the range lie apart, in interval widths.
"""

from __future__ import annotations

import argparse

import numpy as np

from bench.invented import Regime, invent
from inchmark.core.link_model import ranges
from inchmark.core.link_model.data import FitData, build_fit_data
from inchmark.core.link_model.fit import fit_link_model
from inchmark.core.link_model.hypers import PRIOR_MEAN, PRIOR_SD
from inchmark.core.link_model.likelihood import Spreads, visit_terms
from inchmark.core.link_model.posterior import summarise
from inchmark.core.link_model.priors import Structure, build_model
from inchmark.core.reading.links import Ground, fit_visits, link_priors

SMALL = Regime(name="sampler", rigs=2, stops=tuple(np.geomspace(30, 900, 6)), frames=80)


def main() -> None:
    """Print the differences of each study."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--studies", type=int, default=6)
    parser.add_argument("--steps", type=int, default=6000)
    asked = parser.parse_args()
    worst = 0.0
    for seed in range(asked.studies):
        walked, _ = invent(SMALL, seed)
        ground = Ground(rigs=walked.facts, stops=walked.stops, site=walked.site)
        rows = fit_visits(walked.visits, ground)
        priors = link_priors(rows, ground)
        p = fit_link_model(
            rows,
            priors,
            random=np.random.default_rng(1),
            reference_noise_dbm=walked.reference_noise_dbm,
            only=Structure(),
        ).posterior
        data = build_fit_data(rows, priors, reference_noise_dbm=walked.reference_noise_dbm)
        x, phi = sample(data, p, asked.steps, np.random.default_rng(seed))
        ours = _figures(p.level, p.slopes[:, 0], p.threshold, p.spreads, data.centre_m)
        slices = build_model(data).slices
        theirs = _figures(
            x[:, slices["level"]],
            x[:, slices["slopes"]][:, 0],
            x[:, slices["threshold"]],
            Spreads.from_hypers(phi),
            data.centre_m,
        )
        line = []
        for name, draws in theirs.items():
            a, b = summarise(ours[name]), summarise(draws)
            off = np.array([a.estimate - b.estimate, a.low - b.low, a.high - b.high])
            off /= b.high - b.low
            worst = max(worst, float(np.abs(off).max()))
            line.append(f"{name} " + " ".join(f"{o:+.2f}" for o in off))
        print(f"study {seed}: " + "; ".join(line), flush=True)
    print(f"largest difference {worst:.2f} of an interval's width")


def _figures(level, slope, threshold, spreads, centre_m) -> dict[str, np.ndarray]:
    margin = level - threshold
    keep = np.minimum(0.9 / (1 - spreads.floor), 1 - 1e-9)
    needed = spreads.frame_db * ranges.ndtri(keep) + ranges.ndtri(0.9) * spreads.place_db
    return {
        "exponent": slope,
        "difference": margin[:, 0] - margin[:, 1],
        "threshold": threshold[:, 0],
        "range": np.log10(centre_m) + (margin[:, 0] - needed) / (10 * np.maximum(slope, 0.7)),
    }


def sample(data: FitData, p, steps: int, random: np.random.Generator):
    """Return draws of globals and hypers by a stretch-move ensemble, the first half dropped.

    Shadowing and locals are sampled in units of their spreads, which keeps the shape plain.
    """
    model, visits = build_model(data), len(data.link)
    size, hypers = len(model.prior_mean), 6
    shadow = model.slices["shadow"]
    dims = size + hypers + 2 * visits
    walkers = 2 * dims + 2

    def split(theta):
        phi = theta[:, size : size + hypers]
        s = Spreads.from_hypers(phi)
        x = theta[:, :size].copy()
        x[:, shadow] *= s.sigma_s[:, None]
        e = theta[:, size + hypers : size + hypers + visits] * s.sigma_e[:, None]
        t = theta[:, size + hypers + visits :] * s.sigma_t[:, None]
        return x, phi, s, e, t

    fixed = np.r_[model.slices["level"], model.slices["slopes"], model.slices["threshold"]]

    def log_density(theta):
        x, phi, s, e, t = split(theta)
        mu = x @ model.to_mu.T + e
        threshold = x @ model.to_t.T + data.noise_shift + t
        off = x[:, fixed] - model.prior_mean[fixed]
        prior = -0.5 * np.einsum("bi,ij,bj->b", off, model.fixed_precision, off)
        prior -= 0.5 * np.sum(theta[:, shadow] ** 2, axis=1)
        prior -= 0.5 * np.sum(theta[:, size + hypers :] ** 2, axis=1)
        prior -= 0.5 * np.sum(((phi - PRIOR_MEAN[:6]) / PRIOR_SD[:6]) ** 2, axis=1)
        found = prior + np.sum(visit_terms(data, s, mu, threshold).value, axis=1)
        return np.where(np.isfinite(found), found, -np.inf)

    centre = p.centre
    start = np.zeros(dims)
    start[:size] = centre.x
    s = centre.spreads
    start[size : size + hypers] = [
        *np.log([s.sigma_s[0], s.sigma_e[0], s.sigma_f[0], s.waterfall_db[0]]),
        np.log(s.floor[0] / (1 - s.floor[0])),
        np.log(s.sigma_t[0]),
    ]
    start[shadow] /= s.sigma_s[0]
    theta = start + 0.1 * random.standard_normal((walkers, dims))
    density = log_density(theta)
    kept = []
    half = walkers // 2
    for step in range(steps):
        for mine, others in (
            (slice(0, half), slice(half, None)),
            (slice(half, None), slice(0, half)),
        ):
            a, b = theta[mine], theta[others]
            z = (random.random(len(a)) + 1) ** 2 / 2  # the stretch, a = 2
            partner = b[random.integers(0, len(b), len(a))]
            moved = partner + z[:, None] * (a - partner)
            new = log_density(moved)
            accept = np.log(random.random(len(a))) < (dims - 1) * np.log(z) + new - density[mine]
            theta[mine] = np.where(accept[:, None], moved, a)
            density[mine] = np.where(accept, new, density[mine])
        if step >= steps // 2 and step % 10 == 0:
            x, phi, *_ = split(theta)
            kept.append((x, phi))
    return np.concatenate([x for x, _ in kept]), np.concatenate([phi for _, phi in kept])


if __name__ == "__main__":
    main()
