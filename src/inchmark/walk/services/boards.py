"""Walking with simulated boards: the simulator's lines over a TCP lead, taken in like any console's."""

from __future__ import annotations

import hashlib
import itertools
import threading
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from datetime import time as time_of_day
from typing import Any

import numpy as np
from django.db import transaction
from procrastinate.contrib.django import app

from inchmark.core.recipe.propose import propose
from inchmark.core.simulation import SimulatedRig
from inchmark.devices.serial_bridge import CONNECT_TIMEOUT_S, BridgeError, read_lines
from inchmark.devices.simulator.air import Air, Way
from inchmark.devices.simulator.ground import Charted
from inchmark.devices.simulator.outlets import OnTcp
from inchmark.devices.simulator.play import Play
from inchmark.devices.simulator.route import WALKING_M_PER_S, Route
from inchmark.formats.recipe_file import recipe_to_json
from inchmark.plan.adapters.places import fixed_ends, targets_from
from inchmark.plan.adapters.predictions import predictions
from inchmark.plan.adapters.terrain import grid_for
from inchmark.plan.services import site_of
from inchmark.shelf.adapters.ends import sensitivity_of
from inchmark.shelf.adapters.rigs import reference_dbm
from inchmark.shelf.figures.rigs import rig_figures
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study
from inchmark.walk.adapters.logs import Said, said_of
from inchmark.walk.models import FileChunk, FrameFile, ImportProgress, Stay, Walk
from inchmark.walk.services.known_recipes import first_lines
from inchmark.walk.services.receive import RefusedError, file_bytes, queue_import


@dataclass(frozen=True, slots=True, kw_only=True)
class World:
    """A world that is not the plan's: boards as they are, what paths cost, stops where they really are."""

    boards: Mapping[str, SimulatedRig]
    ground: Way
    stops: Sequence[tuple[str, float]]
    traps: frozenset[str] = frozenset()


_worlds: list[Callable[[Walk], World | None]] = []


def provide_world(provider: Callable[[Walk], World | None]) -> None:
    """Register who may say that a walk leads through another world than the plan's."""
    if provider not in _worlds:
        _worlds.append(provider)


def _world_of(walk: Walk) -> World | None:
    return next((found for one in _worlds if (found := one(walk)) is not None), None)


FRAMES, BATCH_LINES = 60, 100
BEGINS = time_of_day(9, tzinfo=UTC)
LONGEST_WAY_S = 3 * 3600.0  # who goes farther than one walks in this time drives
REST = timedelta(minutes=5)  # between a walk before and this one
DIALECT = "keys"
SENSITIVITY_SLACK_DB, PLACES_DB, RIGS_DB = 1.0, 3.0, 1.0


@transaction.atomic
def start_boards(walk: Walk, *, by: Any) -> FrameFile:
    """Queue a walk of the study's rigs over its stops with simulated boards; its stays are kept at once."""
    study = walk.study
    if not study.rigs.exists() or study.stops.count() < 2:
        raise RefusedError(
            "Simulated boards need at least one rig on the shelf and two stops on the plan."
        )
    _keep_the_duty_cycle(walk)
    count = walk.files.filter(kind=FrameFile.BOARDS).count()
    began = _begins(walk)
    file = FrameFile.objects.create(
        walk=walk,
        name=f"boards-{count + 1}.log",
        kind=FrameFile.BOARDS,
        state=FrameFile.RECEIVING,
        said=Said(day=began.date(), anchor_s=began.timestamp()).model_dump(mode="json"),
        by=by,
    )
    _keep_stays(walk, began, by)
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


def _begins(walk: Walk) -> datetime:
    """Return when the boards set out: at nine, or after whatever the walk's timeline holds."""
    morning = datetime.combine(walk.walked_on, BEGINS)
    last = walk.stays.filter(goes_on=False).order_by("to_time").last()
    return max(morning, last.to_time + REST) if last else morning


def _route(walk: Walk, rigs: Sequence[Rig]) -> tuple[Route, float]:
    """Return the way over the study's stops, and the interval between frames [s]."""
    world = _world_of(walk)
    planned = [(stop.label, float(stop.distance_m)) for stop in walk.study.stops.all()]
    stops = list(world.stops) if world else planned
    interval = walk.interval_s or max(rig_figures(rig).min_interval_s for rig in rigs)
    steps = itertools.pairwise(stops)
    way_m = sum(abs(there - here) for (_, here), (_, there) in steps)
    return Route(
        stops=stops,
        dwell_s=(walk.frames_per_visit or FRAMES) * interval,
        speed_m_per_s=max(WALKING_M_PER_S, way_m / LONGEST_WAY_S),
    ), interval


def _keep_stays(walk: Walk, began: datetime, by: Any) -> None:
    route, interval = _route(walk, list(walk.study.rigs.with_parts()))
    stops = {stop.label: stop for stop in walk.study.stops.all()}
    Stay.objects.bulk_create(
        Stay(
            walk=walk,
            stop=stops[stay.stop],
            from_time=began + timedelta(seconds=stay.from_s),
            to_time=began + timedelta(seconds=stay.to_s),
            sent=int(route.dwell_s / interval),
            by=by,
        )
        for stay in route.stays()
    )


def receive_from_boards(file_id: int) -> None:
    """Start the boards, read their lines to the end, and queue the reading of what arrived.

    Taken up again after the worker was killed, it keeps what had arrived and does not walk twice.
    """
    file = FrameFile.objects.select_related("walk__study").get(pk=file_id)
    if file.state != FrameFile.RECEIVING:
        return
    problem = "" if file.chunks.exists() else _walked(file)
    with transaction.atomic():
        digest = hashlib.sha256()
        for block in file_bytes(file):
            digest.update(block)
        file.sha256, file.state, file.problem = digest.hexdigest(), FrameFile.WAITING, problem
        file.recipe = recipe_to_json(propose(first_lines(file)).recipe)
        file.save(update_fields=["sha256", "state", "problem", "size_bytes", "recipe"])
        queue_import(file)


def _walked(file: FrameFile) -> str:
    """Let the boards of a study walk its stops as fast as it goes, and keep what they print."""
    walk, rigs = file.walk, list(file.walk.study.rigs.with_parts())
    random = np.random.default_rng(file.pk)
    route, interval = _route(walk, rigs)
    world = _world_of(walk) or World(
        boards=designed(rigs),
        ground=Charted(_losses(walk.study, rigs, random), dict(route.stops)),
        stops=route.stops,
    )
    air = Air(world.boards, route, world.ground, random, interval, world.traps)
    lead = OnTcp(lambda asked: asked)
    consoles = {ear.name: (DIALECT, lead) for ear in air.ears()}
    play = Play(air, consoles, said_of(file).anchor_s or 0.0, pace=0)
    threading.Thread(target=_played, args=(play, lead), daemon=True, name="boards").start()
    return receive_lines(file, "127.0.0.1", lead.port)


def _played(play: Play, lead: OnTcp) -> None:
    if lead.wait_for_reader(CONNECT_TIMEOUT_S):
        play.run()
    play.close()


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


def _losses(
    study: Study, rigs: Sequence[Rig], random: np.random.Generator
) -> dict[str, dict[str, float]]:
    """Return each rig's loss to each stop [dB]: what Plan predicts before any walk, and what places add."""
    site, stops = site_of(study), list(study.stops.all())
    end = fixed_ends(site, [])[0]
    found: dict[str, dict[str, float]] = {rig.letter: {} for rig in rigs}
    for row in predictions(targets_from(stops, end), rigs, site, grid_for(study), end):
        place = random.normal(0, PLACES_DB)
        for cell in row.cells:
            of_rig = random.normal(0, RIGS_DB)
            found[cell.rig.letter][row.stop.label] = cell.path.loss_db + place + of_rig
    return found


def designed(rigs: Sequence[Rig]) -> dict[str, SimulatedRig]:
    """Return what the shelf says of each rig: its level before any path, and its threshold [dBm]."""
    return {rig.letter: _simulated(rig) for rig in rigs}


def minutes_of(walk: Walk) -> float:
    """Return how long the boards would be out on a walk [minutes]."""
    route, _ = _route(walk, list(walk.study.rigs.with_parts()))
    return route.stays()[-1].to_s / 60


def _simulated(rig: Rig) -> SimulatedRig:
    threshold = sensitivity_of(rig).threshold_dbm + SENSITIVITY_SLACK_DB
    return SimulatedRig(level_at_1m_dbm=reference_dbm(rig), threshold_dbm=threshold)
