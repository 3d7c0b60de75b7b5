"""Walking with simulated boards: real lines over a real TCP connection, taken in like any log."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
from django.db import transaction
from procrastinate.contrib.django import app

from inchmark.core.simulation import SimulatedRig, SimulatedSite, SimulatedWalk
from inchmark.devices.serial_bridge import BridgeError, read_lines
from inchmark.devices.simulated_boards import Itinerary, SimulatedBoards, walk_frames
from inchmark.plan.adapters.places import fixed_ends, targets_from
from inchmark.plan.adapters.predictions import predictions
from inchmark.plan.adapters.terrain import grid_for
from inchmark.plan.services import site_of
from inchmark.shelf.adapters.ends import sensitivity_of
from inchmark.shelf.adapters.rigs import reference_dbm
from inchmark.shelf.figures.rigs import rig_figures
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study
from inchmark.walk.models import FileChunk, FrameFile, ImportProgress, Walk
from inchmark.walk.services.receive import RefusedError, file_bytes, queue_import

FRAMES, PAUSE_S, BATCH_LINES = 60, 0.001, 100
SENSITIVITY_SLACK_DB = 1.0


@transaction.atomic
def start_boards(walk: Walk, *, by: Any) -> FrameFile:
    """Queue a walk of the study's rigs over its stops with simulated boards."""
    study = walk.study
    if not study.rigs.exists() or study.stops.count() < 2:
        raise RefusedError(
            "Simulated boards need at least one rig on the shelf and two stops on the plan."
        )
    _keep_the_duty_cycle(walk)
    count = walk.files.filter(kind=FrameFile.BOARDS).count()
    file = FrameFile.objects.create(
        walk=walk,
        name=f"boards-{count + 1}.jsonl",
        kind=FrameFile.BOARDS,
        state=FrameFile.RECEIVING,
        by=by,
    )
    ImportProgress.objects.create(file=file)
    app.configure_task("inchmark.walk.tasks.walk_with_boards", queue="import").defer(
        file_id=file.pk
    )
    return file


def _keep_the_duty_cycle(walk: Walk) -> None:
    """Refuse a beacon interval that breaks a rig's duty cycle, as the plan would."""
    if walk.interval_s is None:
        return
    paces = [(rig_figures(rig), rig.letter) for rig in walk.study.rigs.with_parts()]
    slowest, letter = max(paces, key=lambda pace: pace[0].min_interval_s)
    if walk.interval_s < slowest.min_interval_s:
        raise RefusedError(
            f"A frame every {walk.interval_s:g} s is too often for rig {letter}: at {slowest.duty.percent:g} % ({slowest.duty.source}) it may send every {slowest.min_interval_s:.1f} s. Change the walk's beacon interval, or leave it empty."
        )


def receive_from_boards(file_id: int) -> None:
    """Start the boards, read their lines to the end, and queue the reading of what arrived.

    Taken up again after the worker was killed, it keeps what had arrived and does not walk twice.
    """
    file = FrameFile.objects.select_related("walk__study").get(pk=file_id)
    if file.state != FrameFile.RECEIVING:
        return
    problem = ""
    if not file.chunks.exists():
        boards = SimulatedBoards(_frames(file.walk, seed=file.pk), pause_s=PAUSE_S)
        boards.start()
        problem = receive_lines(file, "127.0.0.1", boards.port)
    with transaction.atomic():
        digest = hashlib.sha256()
        for block in file_bytes(file):
            digest.update(block)
        file.sha256, file.state, file.problem = digest.hexdigest(), FrameFile.WAITING, problem
        file.save(update_fields=["sha256", "state", "problem", "size_bytes"])
        queue_import(file)


def receive_lines(file: FrameFile, host: str, port: int) -> str:
    """Keep a board's lines as they arrive, batch by batch.

    Return what went wrong, if anything did.
    """
    batch: list[bytes] = []
    try:
        for line in read_lines(host, port):
            batch.append(line)
            if len(batch) >= BATCH_LINES:
                _append(file, batch)
                batch = []
    except BridgeError as wrong:
        _append(file, batch)
        return str(wrong)
    _append(file, batch)
    return ""


def _append(file: FrameFile, batch: list[bytes]) -> None:
    if not batch:
        return
    data = b"".join(batch)
    with transaction.atomic():
        FileChunk.objects.create(file=file, number=file.chunks.count(), data=data)
        file.size_bytes += len(data)
        file.save(update_fields=["size_bytes"])
        progress = file.progress
        progress.frames += len(batch)
        progress.save(update_fields=["frames"])


def _frames(walk: Walk, seed: int) -> Iterator[Any]:
    """Yield the frames of a walk in the world that Plan predicts: its paths, and what places add."""
    study = walk.study
    rigs = list(study.rigs.with_parts())
    simulated = SimulatedWalk(
        SimulatedSite(loss_db=_losses(study, rigs)),
        {rig.letter: _simulated(rig) for rig in rigs},
        np.random.default_rng(seed),
    )
    way = Itinerary(
        stops=[(stop.label, stop.distance_m) for stop in study.stops.all()],
        rigs=[rig.letter for rig in rigs],
        frames=walk.frames_per_visit or FRAMES,
        interval_s=walk.interval_s or max(rig_figures(rig).min_interval_s for rig in rigs),
    )
    return walk_frames(simulated, way)


def _losses(study: Study, rigs: Sequence[Rig]) -> dict[tuple[str, str], float]:
    """Return what Plan predicts each rig's path to each stop to lose [dB], before any walk."""
    site, stops = site_of(study), list(study.stops.all())
    end = fixed_ends(site, [])[0]
    rows = predictions(targets_from(stops, end), rigs, site, grid_for(study), end)
    return {
        (cell.rig.letter, row.stop.label): cell.path.loss_db for row in rows for cell in row.cells
    }


def _simulated(rig: Rig) -> SimulatedRig:
    threshold = sensitivity_of(rig).threshold_dbm + SENSITIVITY_SLACK_DB
    return SimulatedRig(level_at_1m_dbm=reference_dbm(rig), threshold_dbm=threshold)
