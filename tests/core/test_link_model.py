"""The link model against studies whose truth is known, and against its own limits."""

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from inchmark.cli.study import stop_distances
from inchmark.core.link_model.data import FitVisit, RigPrior, build_fit_data
from inchmark.core.link_model.fit import fit_link_model
from inchmark.core.link_model.hypers import start_point
from inchmark.core.link_model.likelihood import Spreads, visit_terms
from inchmark.core.link_model.mode import build_model, find_mode
from inchmark.core.link_model.posterior import summarise
from inchmark.core.reading.analysis import fit_visits
from inchmark.core.reception.bursts import autocorrelation_time
from inchmark.core.reception.visit import silent_visit
from inchmark.formats.frame_log.visits import (
    file_blocks,
    load_frames,
    measured_visits,
)
from inchmark.formats.stops import read_stops

DATASETS = Path(__file__).parents[1] / "datasets"
SMALL = DATASETS / "p2-small"
FAST = {"p2-small", "p4-bursty", "p6-saturated-coarse-conditions"}


def fit_folder(folder):
    study = json.loads((folder / "study.json").read_text())
    rows, _ = read_stops((folder / "stops.csv").read_bytes())
    loaded = load_frames(file_blocks(folder / "frames.csv"))
    measured, _, noisy = measured_visits(loaded, stop_distances(rows))
    assert noisy == []
    visits = fit_visits(measured)
    priors = {
        one["rig"]: RigPrior(
            module_type=one["module_group"], sensitivity_dbm=one["datasheet_sensitivity_dbm"]
        )
        for one in study["rigs"]
    }
    tau = autocorrelation_time([v.summary.runs for v in visits])
    fit = fit_link_model(
        visits,
        priors,
        pooled_tau=tau,
        random=np.random.default_rng(1),
        reference_noise_dbm=study["noise_at_sensitivity_dbm"],
    )
    return fit, tau, json.loads((folder / "truth.json").read_text())


def assert_close(ours, trial, *, share=0.12):
    """Middle and both limits lie within a share of the trial's interval width of the trial's."""
    width = trial["hi95"] - trial["lo95"]
    assert ours.estimate == pytest.approx(trial["median"], abs=share * width)
    assert ours.low == pytest.approx(trial["lo95"], abs=1.5 * share * width)
    assert ours.high == pytest.approx(trial["hi95"], abs=1.5 * share * width)


def compare(folder):
    fit, tau, truth = fit_folder(folder)
    p, trial = fit.posterior, truth["prototype_estimates"]
    assert tau == pytest.approx(trial["loss_autocorrelation_time_pooled"], rel=0.03)
    assert fit.clip_dbm == trial["clip_detected_dbm"]
    assert_close(summarise(p.exponent), trial["exponent"])
    for i, rig in enumerate(p.data.rigs):
        assert_close(summarise(p.threshold[:, i]), trial["sensitivity_dbm"][rig])
        assert_close(p.loss_range_m(rig), trial["range_per10_q90_m"][rig])
        assert_close(p.loss_range_m(rig, places=0.5), trial["range_per10_q50_m"][rig], share=0.2)
    for pair, expected in trial["margin_difference_db"].items():
        assert_close(p.margin_difference_db(*pair.split("-")), expected)
    for pair, expected in trial["signal_difference_db"].items():
        assert_close(p.signal_difference_db(*pair.split("-")), expected)


def test_a_small_study_agrees_with_the_trial_fit_of_the_method():
    compare(SMALL)


@pytest.mark.parametrize("name", sorted(FAST - {"p2-small"}))
def test_studies_with_known_truth_agree_with_the_trial_fit(name):
    compare(DATASETS / name)


@pytest.fixture(scope="module")
def small():
    return fit_folder(SMALL)[0]


def test_the_truth_of_the_small_study_lies_inside_the_limits(small):
    p = small.posterior
    assert summarise(p.exponent).low < 3.2 < summarise(p.exponent).high
    reach = p.loss_range_m("A")
    assert reach.low < 632.1 < reach.high
    difference = p.margin_difference_db("A", "B")
    assert difference.low < 12.86 < difference.high


def test_a_stricter_rule_never_reaches_farther(small):
    p = small.posterior
    strict = p.loss_range_m("A", loss=0.05, places=0.95).estimate
    assert strict < p.loss_range_m("A").estimate < p.loss_range_m("A", places=0.5).estimate
    assert p.in_hand_range_m("A", in_hand_db=20).estimate < p.in_hand_range_m("A").estimate


def test_delivery_falls_with_distance_and_stays_a_share(small):
    p = small.posterior
    shares = [p.delivery("A", d).estimate for d in (50, 200, 800, 3000)]
    assert shares == sorted(shares, reverse=True)
    assert all(0 <= x <= 1 for x in shares)


def test_a_rule_below_the_floor_of_losses_has_no_range(small):
    assert small.posterior.loss_range_m("A", loss=1e-4) is None


def test_the_gradient_is_the_slope_of_the_likelihood(small):
    """Central differences against the written derivatives, lost and clipped frames included."""
    visits = small.visits
    data = build_fit_data(visits, {}, clip_dbm=-70.0)
    spreads = Spreads.from_hypers(start_point(data)[None])
    random = np.random.default_rng(3)
    mu = -113 + random.normal(0, 5, (1, len(visits)))
    t = -112 + random.normal(0, 3, (1, len(visits)))
    terms, step = visit_terms(data, spreads, mu, t), 1e-5
    up, down = visit_terms(data, spreads, mu + step, t), visit_terms(data, spreads, mu - step, t)
    np.testing.assert_allclose(terms.by_mu, (up.value - down.value) / (2 * step), atol=1e-4)
    up, down = visit_terms(data, spreads, mu, t + step), visit_terms(data, spreads, mu, t - step)
    np.testing.assert_allclose(terms.by_t, (up.value - down.value) / (2 * step), atol=1e-4)
    # far above the threshold a lost frame's curvature turns negative (the floor of losses); the
    # method holds it at 0 there, so that Newton stays downhill
    curvature = -(up.by_t - down.by_t) / (2 * step)
    near = (mu - t) / spreads.frame_db < 1.0
    assert near.sum() >= 4
    np.testing.assert_allclose(terms.t_t[near], curvature[near], atol=1e-4)
    assert np.all(terms.t_t >= curvature - 1e-4)


def test_the_mode_is_a_mode(small):
    """At the mode the gradient in every global is zero: no small step improves the objective."""
    data = small.posterior.data
    model = build_model(data)
    mode = find_mode(model, start_point(data)[None])
    again = find_mode(model, start_point(data)[None], mode)
    np.testing.assert_allclose(again.x, mode.x, atol=1e-6)
    np.testing.assert_allclose(again.log_evidence, mode.log_evidence, atol=1e-8)


def test_correlated_stops_change_the_prior_and_nothing_else(small):
    near = build_model(small.posterior.data, correlation_m=100.0)
    far = build_model(small.posterior.data)
    assert not np.allclose(near.shadow_precision, far.shadow_precision)
    np.testing.assert_array_equal(near.to_mu, far.to_mu)


def test_a_dead_visit_pulls_the_range_in(small):
    visits = list(small.visits)
    dead = FitVisit(
        rig="A", stop="9", distance_m=700.0, condition="reference", summary=silent_visit(60)
    )
    priors = {r: RigPrior(sensitivity_dbm=-112) for r in "AB"}
    fits = [
        fit_link_model(v, priors, pooled_tau=2.0, random=np.random.default_rng(1))
        for v in (visits, [*visits, dead])
    ]
    without, with_dead = (one.posterior.loss_range_m("A").estimate for one in fits)
    assert with_dead < without


def test_losses_on_a_strong_signal_are_flagged_and_left_out(small):
    visits = list(small.visits)
    near = visits[0].summary
    jammed = replace(near, heard=20, heard_with_level=20, sent=40)
    visits[0] = replace(visits[0], summary=jammed)
    priors = {r: RigPrior(sensitivity_dbm=-112) for r in "AB"}
    fit = fit_link_model(visits, priors, pooled_tau=1.5, random=np.random.default_rng(1))
    assert 0 in fit.interfered


def test_nothing_heard_anywhere_cannot_be_fitted():
    dead = FitVisit(rig="A", stop="1", distance_m=10, condition="", summary=silent_visit(10))
    with pytest.raises(ValueError, match="no frame heard"):
        build_fit_data([dead], {})
