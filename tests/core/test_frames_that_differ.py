"""Frames that do not count as they came: stretches, relays, levels alike, noise from S/N, pairs."""

from dataclasses import replace

import numpy as np
import pytest

from inchmark.core.reception.changes import LOSS, NOISE, counts_as_change, stretch_of
from inchmark.core.reception.level_runs import (
    NO_LEVELS,
    level_runs,
    level_time,
    level_variance_factor,
)
from inchmark.core.reception.paired import PairedCounts
from inchmark.core.reception.rssi_noise import what_rssi_holds
from inchmark.core.reception.visit import (
    VisitFrames,
    paired_frames,
    summarise_visit,
)

QUIET = np.full(200, np.nan)


def frames(heard, rssi=-90.0, snr=np.nan, noise=np.nan, first=0, **more):
    heard = np.asarray(heard, dtype=bool)
    size = len(heard)

    def column(value):
        return np.where(heard, np.broadcast_to(np.asarray(value, dtype=float), size), np.nan)

    return VisitFrames(
        seq=first + np.arange(size),
        heard=heard,
        rssi_dbm=column(rssi),
        snr_db=column(snr),
        noise_dbm=np.broadcast_to(np.asarray(noise, dtype=float), size).copy(),
        time_s=np.full(size, np.nan),
        **more,
    )


def jammed(seed=1, size=200, start=60, end=110):
    random = np.random.default_rng(seed)
    loss = (random.random(size) < 0.02).astype(float)
    loss[start:end] = random.random(end - start) < 0.8
    return loss


def test_a_jam_in_mid_visit_is_found_and_left_out():
    found, left = stretch_of(jammed(), QUIET)
    assert found.kind == LOSS
    assert abs(found.start - 60) <= 10
    assert abs(found.end - 110) <= 10
    assert left.sum() == 200 - (found.end - found.start)
    assert counts_as_change(found, 200, level_tau=2.0)
    one = summarise_visit(frames(jammed() == 0))
    assert one.change.rest.lost < one.lost / 3
    assert one.change.rest.sent + (found.end - found.start) == one.sent


@pytest.mark.parametrize("seed", range(12))
def test_even_losses_are_no_change(seed):
    loss = (np.random.default_rng(seed).random(200) < 0.3).astype(float)
    found = stretch_of(loss, QUIET)
    assert found is None or not counts_as_change(found[0], 200, level_tau=2.5)


def test_slow_fading_makes_a_stretch_worth_less():
    """The same window counts while levels stay alike over 2 frames, and not over 60."""
    found, _ = stretch_of(jammed(), QUIET)
    assert not counts_as_change(found, 200, level_tau=60.0)


def test_noise_that_rises_for_a_while_is_the_stretch():
    noise = np.full(100, -118.0)
    noise[40:70] = -106.0
    found, left = stretch_of(np.zeros(100), noise)
    assert (found.kind, found.start, found.end) == (NOISE, 40, 70)
    assert left.sum() == 70
    one = summarise_visit(frames(np.ones(100), noise=noise))
    assert one.change.rest.noise_mean_dbm == pytest.approx(-118)
    assert one.noise_mean_dbm == pytest.approx(-114.4)


def test_noise_louder_nearly_all_along_is_the_visit_not_a_stretch():
    noise = np.full(100, -118.0)
    noise[20:] = -106.0
    assert stretch_of(np.zeros(100), noise) is None


def fading(random, size, stay):
    out, last = np.empty(size), random.standard_normal()
    for i in range(size):
        last = stay * last + np.sqrt(1 - stay**2) * random.standard_normal()
        out[i] = last
    return out


@pytest.mark.parametrize(("stay", "wide"), [(0.0, 0.2), (0.5, 0.25), (0.9, 0.35)])
def test_tau_of_the_level_is_that_of_the_process(stay, wide):
    """An autoregressive level of lag-1 correlation r has tau (1 + r) / (1 - r) (textbook)."""
    random = np.random.default_rng(4)
    runs = []
    for _ in range(30):
        level = -90 + 3 * fading(random, 200, stay)
        level[random.random(200) < 0.2] = np.nan  # lost frames tell nothing
        runs.append(level_runs(level))
    assert level_time(runs) == pytest.approx((1 + stay) / (1 - stay), rel=wide)


def test_without_levels_tau_is_the_prior_and_a_short_visit_is_worth_little():
    assert level_runs(np.full(9, np.nan)) is NO_LEVELS
    assert level_time([NO_LEVELS]) == 2.0
    assert level_variance_factor(2.0, 200) == pytest.approx(2.02, abs=0.01)
    assert level_variance_factor(50.0, 60) == pytest.approx(150)  # the denominator is held


def test_relayed_frames_were_sent_and_not_heard_directly():
    relayed = np.zeros(20, dtype=bool)
    relayed[5:9] = True
    one = summarise_visit(frames(np.ones(20), rssi=np.where(relayed, -50, -95), relayed=relayed))
    assert (one.sent, one.heard, one.relayed) == (20, 16, 4)
    assert one.rssi_mean_dbm == -95  # the relay's level is not used


def test_a_frame_heard_directly_and_through_a_relay_was_heard():
    both = replace(
        frames(np.ones(4)),
        seq=np.array([0, 1, 1, 2]),
        relayed=np.array([False, False, True, False]),
    )
    one = summarise_visit(both)
    assert (one.sent, one.heard, one.relayed) == (3, 3, 1)


def test_noise_is_reckoned_from_rssi_and_snr_where_none_is_logged():
    one = summarise_visit(
        frames(np.ones(30), rssi=np.linspace(-100, -90, 30), snr=np.linspace(16, 26, 30))
    )
    assert one.noise_mean_dbm == pytest.approx(-116)
    assert one.noise_derived
    logged = summarise_visit(frames(np.ones(30), rssi=-100, snr=16, noise=-118))
    assert (logged.noise_mean_dbm, logged.noise_derived) == (-118, False)


def test_an_snr_that_has_stopped_rising_is_no_noise():
    """A receiver that reports 10 dB at most: level less S/N would follow the level."""
    strong = summarise_visit(frames(np.ones(30), rssi=np.linspace(-80, -60, 30), snr=10.0))
    assert strong.noise_mean_dbm is None


@pytest.mark.parametrize("together", [True, False])
def test_what_rssi_holds_is_told_without_noise_readings(together):
    random = np.random.default_rng(2)
    snr = random.uniform(-12, 8, 400)
    level = -116 + snr
    rssi = 10 * np.log10(10 ** (level / 10) + 10 ** (-116 / 10)) if together else level
    rssi = np.round(rssi + random.normal(0, 0.4, 400))
    assert what_rssi_holds(rssi, snr, np.full(400, np.nan)) is together


def test_far_from_the_noise_nothing_tells_and_it_matters_little():
    snr = np.linspace(20, 40, 50)
    assert what_rssi_holds(-116 + snr, snr, np.full(50, np.nan)) is None


def test_two_receivers_are_paired_by_counter_over_what_both_logged():
    one = summarise_visit(frames([1, 1, 0, 1, 1, 1], first=10))
    other = summarise_visit(frames([1, 0, 1, 1], first=12))
    found = paired_frames(one, other)
    # counters 12 to 15: first 0 1 1 1, second 1 0 1 1
    assert found == PairedCounts(both=2, first=1, second=1, neither=0)
    assert paired_frames(one, summarise_visit(frames([1, 1], first=900))) is None


def test_pairs_refuse_what_cannot_be():
    with pytest.raises(ValueError, match="0 or more"):
        PairedCounts(both=0, first=0, second=0, neither=0)
