"""Loading the demo study once, through the same doors a person would use."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import date
from typing import Any

import numpy as np

from inchmark.core.geodesy import Place, destination
from inchmark.core.simulation import SimulatedFrame, SimulatedRig, SimulatedSite, SimulatedWalk
from inchmark.demo import marsh
from inchmark.devices.analyser import SweepRange, touchstone_text
from inchmark.devices.simulated_analyser import ANTENNAS, IDENTITY
from inchmark.devices.simulated_boards import Itinerary, walk_frames
from inchmark.formats.frame_log.writer import SIMULATED_COLUMNS, csv_lines, simulated_tokens
from inchmark.plan.models import Site, Stop
from inchmark.plan.services import place_fixed_end, save_stop
from inchmark.read.services import make_reading
from inchmark.shelf.models import ConductedCheck, Rig, Sweep
from inchmark.shelf.services.conducted import keep_ladder
from inchmark.shelf.services.rigs import save_rig
from inchmark.shelf.services.sweeps import keep_sweep
from inchmark.studies.models import Study
from inchmark.studies.services import start_study
from inchmark.walk.services.ingest import import_frames
from inchmark.walk.services.outing import start_walk
from inchmark.walk.services.receive import receive

BENCH_DAY = date(2026, 11, 12)


def load_demo(by: Any) -> Study:
    """Return the demo study, made if the user has none of that name."""
    known = Study.objects.visible_to(by).filter(title=marsh.TITLE).first()
    if known:
        return known
    study = start_study(by=by, title=marsh.TITLE, question=marsh.QUESTION, needed_m=marsh.NEEDED_M)
    place_fixed_end(study, Site(**marsh.FIXED))
    for stop in marsh_stops():
        save_stop(study, stop)
    for values in marsh.RIGS:
        save_rig(study, Rig(**values))
    load_bench(study)
    walk = start_walk(
        study,
        walked_on=date(2026, 11, 14),
        people="two people, one on the sea wall",
        weather="dry, 9 °C, light wind, ebb",
        interval_s=marsh.INTERVAL_S,
        frames_per_visit=marsh.FRAMES,
    )
    received = receive(
        walk, name="saltern-marsh.csv", blocks=[marsh_log().encode()], by=by, queue=False
    )
    import_frames(received.file.pk)
    make_reading(study.pk)
    return study


def load_bench(study: Study) -> None:
    """Add what was measured on the bench: two sweeps of a trim series and a conducted ladder."""
    wanted = SweepRange(start_hz=780e6, stop_hz=940e6, points=321)
    frequencies = np.linspace(wanted.start_hz, wanted.stop_hz, wanted.points)
    for name, millimetres in marsh.SWEEPS:
        text = touchstone_text(IDENTITY, wanted, ANTENNAS[name].reflection(frequencies))
        sweep = Sweep(
            antenna="stub coil",
            unit="S-03",
            swept_on=BENCH_DAY,
            series="away from the lid",
            changed="distance to iron, mm",
            value=millimetres,
        )
        keep_sweep(study, sweep, name=f"stub-{millimetres:g}mm.s1p", data=text.encode())
    ladder = ConductedCheck(
        rig=study.rigs.get(letter="A"),
        unit="L8-11",
        checked_on=BENCH_DAY,
        source_dbm=0.0,
        fixed_loss_db=20.0,
        steps=[list(step) for step in marsh.LADDER],
    )
    keep_ladder(study, ladder)


def marsh_stops() -> list[Stop]:
    """Return the stops with coordinates; the last one is measured along the road, to its cost."""
    start = Place(lat_deg=marsh.FIXED["lat"], lon_deg=marsh.FIXED["lon"])
    stops = []
    for label, name, metres, bearing, off in marsh.STOPS:
        place = destination(start, bearing, metres)
        far = label == marsh.STOPS[-1][0]
        stops.append(
            Stop(
                label=label,
                name=name,
                distance_m=marsh.ROAD_M if far else metres,
                plus_minus_m=off,
                method="road" if far else "rangefinder",
                lat=round(place.lat_deg, 6),
                lon=round(place.lon_deg, 6),
            )
        )
    return stops


def marsh_frames() -> Iterator[SimulatedFrame]:
    """Yield the frames of the walk, the counter restarting once on purpose."""
    rigs = {
        letter: SimulatedRig(
            level_at_1m_dbm=level, threshold_dbm=threshold, rssi_includes_noise=True
        )
        for letter, (level, threshold) in marsh.TRUTH.items()
    }
    site = SimulatedSite(
        exponent=marsh.EXPONENT, sigma_s_db=marsh.SIGMA_S_DB, sigma_e_db=0.8, noise_dbm=-116.0
    )
    walk = SimulatedWalk(site, rigs, np.random.default_rng(marsh.SEED))
    way = Itinerary(
        stops=[(label, metres) for label, _, metres, _, _ in marsh.STOPS],
        rigs=list(rigs),
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


def marsh_log() -> str:
    """Return the receiver's log: heard frames only, and a few lines damaged on purpose."""
    heard = (simulated_tokens(frame) for frame in marsh_frames() if frame.heard)
    lines = list(csv_lines(heard, SIMULATED_COLUMNS))
    lines[40] = lines[40][:17] + "\n"  # cut off
    lines[217] = lines[217].replace(",-", ",-9x", 1)  # a garbled level
    lines[505] = lines[505].rstrip("\n").replace(".", ",") + "\n"  # decimal commas
    lines[701] = "~~ brown-out, restarting ~~\n"
    return "".join(lines)
