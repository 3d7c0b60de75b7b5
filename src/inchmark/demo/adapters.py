"""The second walk over the marsh: both directions, two receivers, a relay, rigs laid flat."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from inchmark.core.reading.measured import TO_CARRIED, TO_FIXED
from inchmark.core.simulation import SimulatedFrame, SimulatedRig, SimulatedSite, SimulatedWalk
from inchmark.demo import marsh
from inchmark.formats.frame_log.columns import COLUMNS
from inchmark.formats.frame_log.writer import Cell, csv_lines, simulated_tokens

START_S = 1_795_168_800.0  # 2026-11-20 10:00 UTC
GAP_S = 60.0


class _Ear(NamedTuple):
    """One way a rig is heard: direction, receiver, and what that adds to its level [dB]."""

    direction: str
    receiver: str
    gain_db: float


EARS = (
    _Ear(direction=TO_FIXED, receiver="", gain_db=0.0),
    _Ear(direction=TO_CARRIED, receiver="", gain_db=marsh.BACK_DB),
    _Ear(direction=TO_FIXED, receiver=marsh.BARN[0], gain_db=marsh.BARN_DB),
)


Losses = Mapping[str, Mapping[str, float]]  # by receiver and stop [dB]; the fixed end is ""


def site_with(losses: Mapping[str, float], rigs: Iterable[str]) -> SimulatedSite:
    """Return the marsh as some receiver has it, paths losing what is known of them [dB]."""
    return SimulatedSite(
        sigma_s_db=marsh.SIGMA_S_DB,
        sigma_e_db=0.8,
        noise_dbm=-116.0,
        loss_db={(rig, stop): loss for rig in rigs for stop, loss in losses.items()},
    )


def second_log(shadow: dict[str, float], losses: Losses) -> str:
    """Return the log of the second walk; `shadow` is what the places did on the first [dB]."""
    return "".join(csv_lines(_lines(shadow, losses), COLUMNS))


def _lines(shadow: dict[str, float], losses: Losses) -> Iterator[dict[str, Cell]]:
    walks = {ear: _walk(ear, shadow, losses[ear.receiver]) for ear in EARS}
    metres = {label: metres for label, _, metres, *_ in marsh.STOPS}
    clock = START_S
    for stop in marsh.SECOND_STOPS:
        for rig in marsh.SECOND_RIGS:
            for condition in ("", marsh.LAID_FLAT):
                ears = EARS if not condition else EARS[:1]
                for ear in ears:
                    yield from _visit(walks[ear], ear, rig, stop, metres[stop], condition, clock)
                clock += marsh.SECOND_FRAMES * marsh.INTERVAL_S + GAP_S


def _walk(ear: _Ear, shadow: dict[str, float], losses: Mapping[str, float]) -> SimulatedWalk:
    rigs = {
        letter: SimulatedRig(
            level_at_1m_dbm=marsh.TRUTH[letter][0] + ear.gain_db,
            threshold_dbm=marsh.TRUTH[letter][1],
            rssi_includes_noise=True,
        )
        for letter in marsh.SECOND_RIGS
    }
    random = np.random.default_rng([marsh.SEED, EARS.index(ear)])
    own = dict(shadow) if not ear.receiver else {}
    return SimulatedWalk(site_with(losses, rigs), rigs, random, shadow=own)


def _visit(
    walk: SimulatedWalk,
    ear: _Ear,
    rig: str,
    stop: str,
    metres: float,
    condition: str,
    clock: float,
) -> Iterator[dict[str, Cell]]:
    costs = {condition: marsh.LAID_FLAT_DB[rig]} if condition else {}
    walk.site = replace(walk.site, penalties_db=costs)
    frames = walk.visit(
        rig,
        stop,
        metres,
        marsh.SECOND_FRAMES,
        start_s=clock,
        interval_s=marsh.INTERVAL_S,
        condition=condition,
    )
    brought = 0
    for frame in frames:
        relayed = False
        if not frame.heard and (rig, stop) == marsh.RELAYED_AT and not condition and ear is EARS[0]:
            relayed, brought = brought < marsh.RELAYED, brought + 1
        if frame.heard or relayed:
            yield _tokens(frame, ear, relayed=relayed)


def _tokens(frame: SimulatedFrame, ear: _Ear, *, relayed: bool) -> dict[str, Cell]:
    found: dict[str, Cell] = dict.fromkeys(COLUMNS)
    found |= simulated_tokens(frame)
    found |= {"direction": ear.direction, "receiver": ear.receiver, "hops": int(relayed)}
    if relayed:
        found |= {"heard": 1, "rssi_dbm": marsh.RELAY_DBM, "snr_db": 45.0}
    return found
