"""The whole way: simulated boards, a bridge, the app killed meanwhile, and what is stored at the end."""

import socket
import subprocess
import sys
import threading
import time
from pathlib import Path

import numpy as np
import pytest

from inchmark.core.prediction import Surroundings
from inchmark.core.simulation import SimulatedRig
from inchmark.devices.bridge.bridge import Bridge
from inchmark.devices.bridge.sender import Sender
from inchmark.devices.bridge.sources import source_of
from inchmark.devices.bridge.spool import Spool
from inchmark.devices.simulator.air import Air
from inchmark.devices.simulator.dialects import answer
from inchmark.devices.simulator.ground import Ends, Ground
from inchmark.devices.simulator.outlets import OnTcp
from inchmark.devices.simulator.play import Play
from inchmark.devices.simulator.route import Route
from inchmark.people.services import make_access_token
from inchmark.walk.models import Frame, FrameFile
from inchmark.walk.services import stays
from tests import make

ROOT = Path(__file__).resolve().parents[2]
BEGAN_S = float(int(time.time()))  # the boards tell the time of day, so it is that of today
FOUR = dict(zip("ABCD", ("keys", "words", "objects", "columns"), strict=True))
PATIENCE_S = 60.0


class App:
    """The real application in a process of its own, on a port that stays its own."""

    def __init__(self, environment):
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        self.environment, self.process = environment, None

    def start(self):
        command = [sys.executable, "-m", "inchmark.config.serve", "--listen"]
        self.process = subprocess.Popen(
            [*command, f"127.0.0.1:{self.port}"], cwd=ROOT, env=self.environment
        )
        until(self.answers)

    def answers(self):
        try:
            socket.create_connection(("127.0.0.1", self.port), timeout=1).close()
        except OSError:
            return False
        return True

    def kill(self):
        self.process.kill()
        self.process.wait(10)


def until(true):
    end = time.monotonic() + PATIENCE_S
    while not true():
        assert time.monotonic() < end, "it did not come about"
        time.sleep(0.05)


@pytest.fixture
def app(app_process_environment):
    one = App({**app_process_environment, "PYTHONPATH": str(ROOT / "src")})
    one.start()
    yield one
    one.kill()


def boards_of(route):
    dice = np.random.default_rng(8)
    rigs = {
        letter: SimulatedRig(level_at_1m_dbm=14.0 - 3 * i, threshold_dbm=-111.0)
        for i, letter in enumerate(FOUR)
    }
    ground = Ground(600.0, Surroundings(model="two_ray", shadowing_db=2.0), Ends(), dice)
    return Air(rigs, route, ground, dice, interval_s=2.0)


def stay_lines(air):
    from inchmark.formats.frame_log.writer import iso_time

    return "from,to,stop\n" + "".join(
        f"{iso_time(BEGAN_S + s.from_s)},{iso_time(BEGAN_S + s.to_s)},{s.stop}\n" for s in air.stays
    )


def test_four_boards_a_pulled_lead_and_a_killed_app_lose_and_double_nothing(app, tmp_path):
    study = make.field_study(rigs="ABCD", stops=3)
    walk = make.walk(study)
    token = make_access_token(make.owner(study), name="laptop", only_walk=walk.pk)
    air = boards_of(Route(stops=[("1", 50.0), ("2", 100.0), ("3", 150.0)], dwell_s=60.0))
    stays.keep_timeline(walk, stay_lines(air), make.owner(study))
    outlets = {name: OnTcp(lambda asked: answer("keys", asked)) for name in FOUR}
    sources = [source_of(f"{name}={outlet.words}") for name, outlet in outlets.items()]
    spool = Spool(tmp_path / "spool.sqlite")
    door = f"http://127.0.0.1:{app.port}/api/walks/{walk.pk}/lines"
    constants = {name: {"rig": name} for name in FOUR}
    sender = Sender(spool, door, token, lambda _: None, constants=constants, waits=(0.1,))
    bridge = Bridge(spool, sources, sender, lambda _: None)
    bridging = threading.Thread(target=bridge.run)
    bridging.start()
    until(lambda: all(outlet.print("hello") for outlet in outlets.values()))
    play = Play(
        air, {name: (dialect, outlets[name]) for name, dialect in FOUR.items()}, BEGAN_S, pace=40.0
    )
    playing = threading.Thread(target=play.run)
    playing.start()
    until(lambda: len(play.truth) > 60)
    outlets["B"].pull()
    until(lambda: outlets["B"].print("back again"))
    app.kill()
    until(lambda: len(play.truth) > 300)
    app.start()
    playing.join(PATIENCE_S)
    until(lambda: all(unsent == 0 for _, unsent in spool.counts().values()))
    bridge.stop.set()
    bridging.join(30)
    for outlet in outlets.values():
        outlet.close()
    spool.close()
    make_read()
    stored = set(
        Frame.objects.filter(heard=True).values_list(
            "visit__rig__letter", "visit__stop__label", "seq"
        )
    )
    said = {
        (one.ear.board, one.stop, one.seq) for one, printed in play.truth if printed and one.stop
    }
    assert FrameFile.objects.filter(state=FrameFile.READ).count() == len(FOUR)
    assert Frame.objects.filter(heard=True).count() == len(stored) == len(said)
    assert stored == said
    assert len(said) > 150


def make_read():
    """Read what has come, as the worker would."""
    from inchmark.walk.services.recipes import read_now

    for file in FrameFile.objects.all():
        read_now(file)
