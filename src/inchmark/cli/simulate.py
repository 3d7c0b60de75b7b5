"""`inchmark simulate`: boards that are not there, on the leads real ones use."""

from __future__ import annotations

import argparse
import signal
import time
from datetime import datetime
from pathlib import Path

import numpy as np

from inchmark.core.geodesy import Place
from inchmark.core.prediction import EXPONENTS, Surroundings
from inchmark.core.simulation import SimulatedRig
from inchmark.devices.simulated_analyser import SimulatedAnalyser
from inchmark.devices.simulator.air import Air, Ear
from inchmark.devices.simulator.dialects import DIALECTS, answer
from inchmark.devices.simulator.ground import Ends, Ground, over_terrain, way
from inchmark.devices.simulator.outlets import OnFile, OnMqtt, OnPty, OnTcp, OnUdp, Outlet
from inchmark.devices.simulator.play import GPS, Play, console_names
from inchmark.devices.simulator.route import FIXED_END, WALKING_M_PER_S, Route
from inchmark.devices.simulator.traps import TRAPS, named
from inchmark.devices.simulator.turns import EXAMPLE_START_S, example_log
from inchmark.formats.stops import read_stops
from inchmark.formats.terrain import read_terrain

MOST_BOARDS = 26
LEVEL_DBM, LEVEL_STEP_DB, THRESHOLD_DBM = (
    14.0,
    3.0,
    -111.0,
)  # e.i.r.p. of the first board, dB to the next
ROUTE_M = "30,65,130,240,400,620,900"
MODELS = ("two_ray", "log_distance", "free_space", "terrain")


def add_parser(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command and its options."""
    parser = commands.add_parser(
        "simulate", help="boards that walk a route and print what they hear, or an invented log"
    )
    add = parser.add_argument
    add("--seed", type=int, default=1)
    add("--into", type=Path, help="folder to write an invented frames.csv and stops.csv to")
    add("--analyser", type=int, metavar="PORT", help="answer as an analyser on 127.0.0.1:PORT")
    add("--antenna", default="whip", help="antenna on its port (whip)")
    add("--boards", type=int, metavar="N", help=f"so many boards side by side, up to {MOST_BOARDS}")
    add("--on", default="tcp", metavar="LEAD",
        help="tcp, pty, udp:HOST:PORT, mqtt:HOST:PORT, or file:FOLDER")  # fmt: skip
    add("--dialect", default=",".join(DIALECTS), help="how boards print, in turn: %(default)s")
    add("--route", default=ROUTE_M, metavar="M,M", help="stops by distance (%(default)s)")
    add("--stops", type=Path, metavar="FILE", help="stops and their distances as CSV instead")
    add("--dwell", type=float, default=120.0, metavar="S", help="stay at a stop (%(default)s s)")
    add("--speed", type=float, default=WALKING_M_PER_S, metavar="M/S",
        help="between stops (%(default)s); 10 is a car")  # fmt: skip
    add("--interval", type=float, default=2.0, metavar="S", help="between frames (%(default)s s)")
    add("--pace", type=float, default=1.0, help="times life; 0 as fast as it goes (%(default)s)")
    add("--with", dest="traps", default="", metavar="TRAP,TRAP",
        help="; ".join(f"{name}: {words}" for name, words in TRAPS.items()))  # fmt: skip
    add("--model", choices=MODELS, default="two_ray", help="what the way costs (%(default)s)")
    add("--openness", choices=EXPONENTS, default="middling", help="for log_distance")
    add("--shadowing", type=float, default=4.0, metavar="DB", help="between places (%(default)s)")
    add("--terrain", type=Path, metavar="FILE", help="heights, as Plan takes them; sets the model")
    add("--from", dest="start", metavar="LAT,LON", help="where the fixed end stands")
    add("--bearing", type=float, default=70.0, help="of the route (%(default)s degrees)")
    add("--heights", default="4,1.5", metavar="M,M", help="fixed end, carrier (%(default)s m)")
    add("--frequency", type=float, default=868.1, metavar="MHZ")
    add("--began", metavar="TIME", help="clock of the boards at the start, ISO 8601 (now)")
    add("--truth", type=Path, metavar="FOLDER",
        help="folder for frames.csv, stops.csv and timeline.csv: what was truly sent, and where")  # fmt: skip
    parser.set_defaults(run=run)


def run(parsed: argparse.Namespace) -> int:
    """Simulate what is asked for."""
    if parsed.boards:
        return _play(parsed)
    if parsed.analyser:
        return _analyser(parsed)
    if not parsed.into:
        raise ValueError(
            "say what: --boards N walks boards, --into FOLDER writes files, --analyser PORT answers"
        )
    parsed.into.mkdir(parents=True, exist_ok=True)
    frames, stops = example_log(parsed.seed)
    (parsed.into / "frames.csv").write_text(frames, encoding="utf-8")
    (parsed.into / "stops.csv").write_text(stops, encoding="utf-8")
    print(f"{parsed.into}/frames.csv, {parsed.into}/stops.csv")
    return 0


def _analyser(parsed: argparse.Namespace) -> int:
    analyser = SimulatedAnalyser(antenna=parsed.antenna, port=parsed.analyser)
    print(f"simulated analyser on 127.0.0.1:{analyser.port}; end with Ctrl-C")
    try:
        analyser.serve()
    except KeyboardInterrupt:
        analyser.close()
    return 0


def _play(parsed: argparse.Namespace) -> int:
    air = air_of(parsed)
    pairs = console_names(air.ears(), [one.strip() for one in parsed.dialect.split(",")])
    consoles = {ear.name: (dialect, _outlet(parsed.on, ear, dialect)) for ear, dialect in pairs}
    gps = _outlet(parsed.on, Ear(GPS), "keys") if "gps" in air.traps else None
    for name, (dialect, outlet) in consoles.items():
        print(f"{name}={outlet.words}  ({dialect})")
    if gps is not None:
        print(f"{GPS}={gps.words}  (NMEA 0183)")
    print(f"{air.lasts_s / (parsed.pace or 1):.0f} s to the last stop; Ctrl-C ends it.", flush=True)
    play = Play(air, consoles, _began(parsed.began), parsed.pace, gps)
    for name in (signal.SIGINT, signal.SIGTERM):
        signal.signal(name, lambda *_: play.stop.set())
    play.run()
    if parsed.truth:
        play.write_truth(parsed.truth)
    play.close()
    heard = sum(one.heard for one, _ in play.truth)
    print(f"{len(play.truth)} frames sent, {heard} heard.")
    return 0


def air_of(parsed: argparse.Namespace) -> Air:
    """Return the air of a simulated walk.

    Raises
    ------
    ValueError
        An option does not fit; says which.
    """
    if not 1 <= parsed.boards <= MOST_BOARDS:
        raise ValueError(f"--boards {parsed.boards}: there may be 1 to {MOST_BOARDS}.")
    if parsed.interval <= 0 or parsed.pace < 0:
        raise ValueError("--interval must be above 0 s, and --pace not below 0.")
    random = np.random.default_rng(parsed.seed)
    route = Route(
        stops=_stops(parsed), dwell_s=parsed.dwell, speed_m_per_s=parsed.speed,
        bearing_deg=parsed.bearing, start=_place(parsed.start),
    )  # fmt: skip
    boards = {
        chr(ord("A") + i): SimulatedRig(
            level_at_1m_dbm=LEVEL_DBM - i * LEVEL_STEP_DB, threshold_dbm=THRESHOLD_DBM
        )
        for i in range(parsed.boards)
    }
    return Air(
        boards, route, _ground(parsed, route, random), random, parsed.interval, named(parsed.traps)
    )


def _ground(parsed: argparse.Namespace, route: Route, random: np.random.Generator) -> Ground:
    fixed, carried = _numbers("--heights", parsed.heights, 2)
    ends = Ends(fixed_m=fixed, carried_m=carried, frequency_hz=parsed.frequency * 1e6)
    farthest = max(metres for _, metres in route.stops)
    model, diffraction = parsed.model, None
    if parsed.terrain:
        model = "terrain"
        grid = read_terrain(parsed.terrain.read_bytes(), parsed.terrain.name)
        places = [route.place(float(metres)) for metres in way(farthest)]
        diffraction = over_terrain(grid, route.start, places, ends)
    elif model == "terrain":
        raise ValueError("--model terrain needs --terrain FILE, the heights of the ground.")
    surroundings = Surroundings(
        model=model, openness=parsed.openness, shadowing_db=parsed.shadowing
    )
    return Ground(farthest, surroundings, ends, random, diffraction)


def _stops(parsed: argparse.Namespace) -> list[tuple[str, float]]:
    if not parsed.stops:
        found = _numbers("--route", parsed.route, None)
        return [(str(i), metres) for i, metres in enumerate(found, 1)]
    rows, bad = read_stops(parsed.stops.read_bytes())
    if bad:
        raise ValueError(f"{parsed.stops}, line {bad[0].number}: {bad[0].reason}")
    if lacking := [row.stop for row in rows if row.distance_m is None]:
        raise ValueError(f"{parsed.stops}: stop {lacking[0]} has no distance. Write it in metres.")
    return [(row.stop, float(row.distance_m or 0)) for row in rows]


def _outlet(lead: str, ear: Ear, dialect: str) -> Outlet:
    def said(asked: str) -> str:
        return answer(dialect, asked)

    kind, _, address = lead.partition(":")
    if kind == "tcp":
        return OnTcp(said, int(address) if address.isdigit() else 0)
    if kind == "pty":
        return OnPty(said)
    if kind == "udp":
        return OnUdp(address)
    if kind == "mqtt":
        return OnMqtt(address, f"inchmark/{ear.name}")
    if kind == "file" and address:
        Path(address).mkdir(parents=True, exist_ok=True)
        return OnFile(Path(address) / f"{ear.name}.log")
    raise ValueError(f"--on {lead}: write tcp, pty, udp:HOST:PORT, mqtt:HOST:PORT or file:FOLDER.")


def _place(text: str | None) -> Place:
    if not text:
        return FIXED_END
    lat, lon = _numbers("--from", text, 2)
    return Place(lat_deg=lat, lon_deg=lon)


def _numbers(option: str, text: str, count: int | None) -> list[float]:
    try:
        found = [float(part) for part in text.split(",")]
    except ValueError:
        found = []
    if not found or (count is not None and len(found) != count):
        wanted = "numbers" if count is None else f"{count} numbers"
        raise ValueError(f"{option} {text}: write {wanted} with commas between.")
    return found


def _began(text: str | None) -> float:
    if text is None:
        return time.time()
    if text == "example":
        return EXAMPLE_START_S
    try:
        return datetime.fromisoformat(text.replace("Z", "+00:00")).timestamp()
    except ValueError:
        raise ValueError(f"--began {text}: write a time like 2026-11-14T09:00:00Z.") from None
