"""Loading the demo study once, through the same doors a person would use."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from dataclasses import replace
from datetime import date
from typing import Any

import numpy as np
from django.db import transaction

from inchmark.core.geodesy import Place, destination
from inchmark.core.simulation import SimulatedFrame, SimulatedRig, SimulatedWalk
from inchmark.demo import marsh
from inchmark.demo.adapters import Losses, second_log, site_with
from inchmark.devices.analyser import SweepRange
from inchmark.devices.simulated_analyser import ANTENNAS, IDENTITY
from inchmark.devices.simulator.turns import Itinerary, walk_frames
from inchmark.formats.frame_log.writer import SIMULATED_COLUMNS, csv_lines, simulated_tokens
from inchmark.formats.touchstone import touchstone_text
from inchmark.plan.adapters.places import fixed_ends, site_facts
from inchmark.plan.adapters.terrain import grid_for
from inchmark.plan.adapters.terrain_law import losses_to
from inchmark.plan.models import Design, Site, SitePoint, Stop
from inchmark.plan.services import place_fixed_end, save_stop, site_of
from inchmark.plan.services.design import acknowledge, save_design
from inchmark.plan.services.features import keep_features
from inchmark.plan.services.points import save_point
from inchmark.plan.services.terrain import keep_terrain
from inchmark.read.services import make_reading
from inchmark.shelf.models import (
    Centring,
    CloseRange,
    ConductedCheck,
    CurrentTrace,
    Rig,
    Sweep,
)
from inchmark.shelf.services.bench import keep_centring, keep_close_range, keep_trace
from inchmark.shelf.services.conducted import keep_ladder
from inchmark.shelf.services.rigs import save_rig
from inchmark.shelf.services.shelf_files import starter_shelf, take_in
from inchmark.shelf.services.starter import FIXED_ANTENNA, starter_rig
from inchmark.shelf.services.sweeps import keep_sweep
from inchmark.studies.models import Study
from inchmark.studies.services import start_study
from inchmark.walk.services.ingest import import_frames
from inchmark.walk.services.outing import name_units, start_walk
from inchmark.walk.services.receive import receive

BENCH_DAY, WALK_DAY, SECOND_DAY = date(2026, 11, 12), date(2026, 11, 14), date(2026, 11, 20)


@transaction.atomic
def load_demo(by: Any) -> Study:
    """Return the demo study, made if the user has none of that name: all of it, or nothing."""
    known = Study.objects.visible_to(by).filter(title=marsh.TITLE).first()
    if known and known.readings.exists():
        if known.kind != Study.DEMO:  # loaded before studies had a kind
            Study.objects.filter(pk=known.pk).update(kind=Study.DEMO)
        return known
    if known:  # an older version could be interrupted half way; nothing of it is thrown away
        known.title = f"{marsh.TITLE} (half loaded)"
        known.save(update_fields=["title"])
    study = start_study(
        by=by, title=marsh.TITLE, question=marsh.QUESTION, needed_m=marsh.NEEDED_M, kind=Study.DEMO
    )
    place_fixed_end(study, Site(**marsh.FIXED))
    for stop in marsh_stops():
        save_stop(study, stop)
    keep_terrain(study, marsh_terrain().encode(), "saltern-marsh.asc")
    take_in(study, starter_shelf())
    for letter, setting, antenna in marsh.RIGS:
        save_rig(study, marsh_rig(study, letter, setting, antenna))
    load_bench(study)
    load_places(study)
    load_plan(study, by)
    add_barn(study)
    losses = path_losses(study)
    log = marsh_log(losses[""])
    walk_the_marsh(study, by, day=WALK_DAY, log=log, **marsh.FIRST_WALK)
    load_second_walk(study, by, losses)
    make_reading(study.pk)
    return study


def path_losses(study: Study) -> Losses:
    """Return what paths from each receiver to each stop lose by Plan [dB]: one world for both."""
    site, stops, grid = site_of(study), list(study.stops.all()), grid_for(study)
    rigs, points = list(study.rigs.with_parts()), list(study.points.all())
    facts = site_facts(study, site, rigs)
    found = {}
    for end in fixed_ends(site, points):
        heard = facts if end.height_m is None else replace(facts, fixed_height_m=end.height_m)
        found[end.label] = losses_to(end, stops, grid, heard)
    return found


def add_barn(study: Study) -> None:
    """Add the second receiver, on the roof of the barn."""
    label, name, metres, bearing = marsh.BARN
    lat, lon = _off(metres, bearing)
    save_point(
        study,
        SitePoint(
            kind=SitePoint.RECEIVER,
            label=label,
            name=name,
            lat=lat,
            lon=lon,
            antenna_m=marsh.BARN_M,
        ),
    )


def load_second_walk(study: Study, by: Any, losses: Losses) -> None:
    """Add the walk of a week later: both directions, a second receiver, rigs laid flat."""
    log = second_log(shadow_of_the_marsh(losses[""]), losses)
    walk_the_marsh(study, by, day=SECOND_DAY, log=log, **marsh.SECOND_WALK)


def walk_the_marsh(
    study: Study, by: Any, *, day: date, log: str, name: str, rigs: str, **facts: Any
) -> None:
    """Add a walk of a day: who carried which rigs, in what weather, and the log it brought."""
    walk = start_walk(study, walked_on=day, interval_s=marsh.INTERVAL_S, **facts)
    units = study.units
    taken = study.rigs.filter(letter__in=rigs)
    carried = {rig: units.get(serial=marsh.CARRIED_UNIT) for rig in taken}
    name_units(walk, carried, units.get(serial=marsh.FIXED_UNIT))
    received = receive(walk, name=name, blocks=[log.encode()], by=by, queue=False)
    import_frames(received.file.pk)


def load_places(study: Study) -> None:
    """Add the gates that need a node, and what helps to find one's way on the map."""
    for metres, bearing in marsh.GATES:
        lat, lon = _off(metres, bearing)
        save_point(study, SitePoint(kind=SitePoint.NODE, name="sluice gate", lat=lat, lon=lon))
    keep_features(study, marsh_features().encode(), "saltern-marsh.geojson")


def marsh_features() -> str:
    """Return the marsh's wall, creek, causeway, ridge and carr as GeoJSON."""
    drawn = [
        (name, "LineString", [_off(metres, b)[::-1] for b in np.arange(first, last + 1, 5)])
        for name, metres, first, last in marsh.ARCS
    ]
    corners = [_off(*corner)[::-1] for corner in (*marsh.CARR, marsh.CARR[0])]
    features = [
        {
            "type": "Feature",
            "properties": {"name": name} | ({"cover": "trees"} if kind == "Polygon" else {}),
            "geometry": {"type": kind, "coordinates": found},
        }
        for name, kind, found in [*drawn, ("alder carr", "Polygon", [corners])]
    ]
    return json.dumps({"type": "FeatureCollection", "features": features})


def _off(metres: float, bearing_deg: float) -> tuple[float, float]:
    """Return the latitude and longitude of a place seen from the pump house."""
    start = Place(lat_deg=marsh.FIXED["lat"], lon_deg=marsh.FIXED["lon"])
    place = destination(start, float(bearing_deg), metres)
    return round(place.lat_deg, 6), round(place.lon_deg, 6)


def load_plan(study: Study, by: Any) -> None:
    """Add the plan of the day: does B beat A, past water and on a roof."""
    design = save_design(
        study,
        Design(
            kind="compare",
            rig=study.rigs.get(letter="B"),
            other=study.rigs.get(letter="A"),
            frames=marsh.FRAMES,
            interval_s=marsh.INTERVAL_S,
            walked_on=WALK_DAY,
            conditions=["water", "roof"],
        ),
    )
    acknowledge(design, ["water", "roof"], by=by, name="the two who walked")


def marsh_rig(study: Study, letter: str, setting: str, antenna: str) -> Rig:
    """Return a rig composed of parts of the starter shelf, in an iron box."""
    return starter_rig(
        study, letter, setting, antenna,
        housing_loss_db=marsh.BOX_DB, height_m=marsh.HEIGHT_M, fixed_height_m=marsh.FIXED_HEIGHT_M,
    )  # fmt: skip


def _swept(name: str, wanted: SweepRange) -> bytes:
    """Return the sweep of a virtual antenna as a file."""
    reflection = ANTENNAS[name].reflection(wanted.frequency_hz)
    comment = f"read from {IDENTITY}"
    return touchstone_text(wanted.frequency_hz, reflection, comment=comment).encode()


def load_bench(study: Study) -> None:
    """Add what was measured on the bench, a check of each kind."""
    wanted = SweepRange(start_hz=780e6, stop_hz=940e6, points=321)
    for name, millimetres, state in marsh.SWEEPS:
        sweep = Sweep(
            part=study.antenna_parts.get(name="stub coil"),
            antenna="stub coil",
            unit="S-03",
            swept_on=BENCH_DAY,
            state=state,
            series="away from the lid",
            changed="distance to iron, mm",
            value=millimetres,
        )
        keep_sweep(study, sweep, name=f"stub-{millimetres:g}mm.s1p", data=_swept(name, wanted))
    whip = study.antenna_parts.get(name=FIXED_ANTENNA)
    sweep = Sweep(part=whip, antenna=whip.name, swept_on=BENCH_DAY, state="free")
    keep_sweep(study, sweep, name="whip.s1p", data=_swept("whip", wanted))
    rig = study.rigs.get(letter="A")
    ladder = ConductedCheck(
        rig=rig,
        unit="L8-11",
        checked_on=BENCH_DAY,
        source_dbm=0.0,
        fixed_loss_db=20.0,
        steps=[list(step) for step in marsh.LADDER],
    )
    keep_ladder(study, ladder)
    centring = Centring(
        rig=rig,
        unit="L8-11",
        sender="L8-12",
        checked_on=BENCH_DAY,
        level_dbm=-71.0,
        steps=[list(step) for step in marsh.OFFSETS],
    )
    keep_centring(study, centring)
    for check in marsh.CLOSE:
        keep_close_range(study, CloseRange(rig=rig, checked_on=BENCH_DAY, **check))
    trace = CurrentTrace(rig=rig, unit="L8-11", traced_on=BENCH_DAY)
    keep_trace(study, trace, name="message.csv", data=marsh_trace().encode())


def marsh_trace() -> str:
    """Return a current trace of a few messages, as a meter would export it."""
    rng = np.random.default_rng(marsh.SEED)
    levels = [pair for _ in range(marsh.MESSAGES) for pair in marsh.MESSAGE]
    current = np.concatenate(
        [np.full(round(seconds / marsh.TRACE_STEP_S), amperes) for seconds, amperes in levels]
    )
    current = current * (1 + 0.02 * rng.standard_normal(len(current)))
    lines = (
        f"{1e3 * marsh.TRACE_STEP_S * i:.1f},{1e3 * amperes:.6f}"
        for i, amperes in enumerate(current)
    )
    return "time_ms,current_mA\n" + "\n".join(lines) + "\n"


def marsh_terrain() -> str:
    """Return the marsh as an ESRI ASCII grid: flat, with what stands in it."""
    cells, step = marsh.TERRAIN_CELLS, marsh.TERRAIN_STEP_DEG
    north = marsh.FIXED["lat"] + 0.85 * cells * step
    west = marsh.FIXED["lon"] - 0.1 * cells * step
    row, column = np.mgrid[0:cells, 0:cells]
    lat, lon = north - row * step, west + column * step
    east = (lon - marsh.FIXED["lon"]) * 75_200  # metres at 47.5 degrees
    up = (lat - marsh.FIXED["lat"]) * 111_200
    away = np.hypot(east, up)
    heights = 1.2 + 0.3 * np.sin(east / 37) * np.cos(up / 53)
    heights += 1.8 * np.exp(-(((away - 62) / 12) ** 2))  # the sea wall
    heights -= 1.0 * np.exp(-(((away - 125) / 10) ** 2))  # the first creek
    heights += 0.7 * np.exp(-(((away - 480) / 20) ** 2))  # the causeway
    heights += 4.5 * np.exp(-(((away - 820) / 70) ** 2))  # the low ridge
    heights[away < 15] = marsh.FIXED["ground_m"]
    lines = "\n".join(" ".join(f"{h:.2f}" for h in line) for line in heights)
    return f"ncols {cells}\nnrows {cells}\nxllcenter {west:.6f}\nyllcenter {north - (cells - 1) * step:.6f}\ncellsize {step}\nNODATA_value -9999\n{lines}\n"


def marsh_stops() -> list[Stop]:
    """Return the stops with coordinates; the last one is measured along the road, to its cost."""
    stops = []
    for label, name, metres, bearing, off in marsh.STOPS:
        lat, lon = _off(metres, bearing)
        far = label == marsh.STOPS[-1][0]
        stops.append(
            Stop(
                label=label,
                name=name,
                distance_m=marsh.ROAD_M if far else metres,
                plus_minus_m=off,
                method="road" if far else "rangefinder",
                lat=lat,
                lon=lon,
            )
        )
    return stops


def _first_walk(losses: Mapping[str, float]) -> SimulatedWalk:
    rigs = {
        letter: SimulatedRig(
            level_at_1m_dbm=level, threshold_dbm=threshold, rssi_includes_noise=True
        )
        for letter, (level, threshold) in marsh.TRUTH.items()
    }
    return SimulatedWalk(site_with(losses, rigs), rigs, np.random.default_rng(marsh.SEED))


def shadow_of_the_marsh(losses: Mapping[str, float]) -> dict[str, float]:
    """Return what each place does to a level [dB]; it is the same on every walk."""
    walk = _first_walk(losses)
    for _ in marsh_frames(walk):
        pass
    return walk.shadow


def marsh_frames(walk: SimulatedWalk) -> Iterator[SimulatedFrame]:
    """Yield the frames of the first walk, the counter restarting once on purpose."""
    way = Itinerary(
        stops=[(label, metres) for label, _, metres, _, _ in marsh.STOPS],
        rigs=list(walk.rigs),
        frames=marsh.FRAMES,
        interval_s=marsh.INTERVAL_S,
    )
    rig, stop, at = marsh.RESET_AT
    sent, fallen = 0, 0
    for frame in walk_frames(walk, way):
        if frame.rig == rig and frame.stop == stop:
            sent += 1
            fallen = frame.seq if sent == at else fallen
        yield replace(frame, seq=frame.seq - fallen) if frame.rig == rig and fallen else frame


def marsh_log(losses: Mapping[str, float]) -> str:
    """Return the receiver's log over paths of known loss [dB by stop].

    Heard frames only, and a few lines damaged on purpose.
    """
    frames = marsh_frames(_first_walk(losses))
    heard = (simulated_tokens(frame) for frame in frames if frame.heard)
    lines = list(csv_lines(heard, SIMULATED_COLUMNS))
    lines[40] = lines[40][:17] + "\n"  # cut off
    lines[217] = lines[217].replace(",-", ",-9x", 1)  # a garbled level
    lines[505] = lines[505].rstrip("\n").replace(".", ",") + "\n"  # decimal commas
    lines[701] = "~~ brown-out, restarting ~~\n"
    return "".join(lines)
