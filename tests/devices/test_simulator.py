"""Simulated boards: what they print is what they say they sent, on every lead and in every dialect."""

import csv
import itertools
import os
import re
import socket
import threading
import time

import numpy as np
import pytest

from inchmark.cli import main
from inchmark.cli.simulate import air_of
from inchmark.core.recipe.nmea import position as position_of
from inchmark.devices.simulator.dialects import DIALECTS, position
from inchmark.devices.simulator.outlets import OnPty, OnTcp, OnUdp
from inchmark.devices.simulator.route import At, Route
from inchmark.devices.simulator.traps import TRAPS, Bursts, named
from inchmark.formats.frame_log.writer import iso_time

DATED = ("--began", "2026-11-14T09:00:00Z")
SHORT = ("--route", "40,200,420", "--dwell", "60", "--pace", "0", *DATED)


def simulated(folder, *more):
    truth = folder / "truth"
    command = ["simulate", "--on", f"file:{folder}", "--truth", str(truth), *SHORT, *more]
    assert main(command) == 0
    return truth, list(csv.DictReader((truth / "frames.csv").read_text().splitlines()))


def air(**more):
    import argparse

    asked = {
        "boards": 1, "interval": 1.0, "pace": 0.0, "seed": 3, "route": "40,200", "stops": None,
        "dwell": 60.0, "speed": 1.3, "bearing": 70.0, "start": None, "heights": "4,1.5",
        "frequency": 868.1, "terrain": None, "model": "two_ray", "openness": "middling",
        "shadowing": 3.0, "traps": "",
    }  # fmt: skip
    return air_of(argparse.Namespace(**(asked | more)))


@pytest.mark.parametrize("dialect", DIALECTS)
def test_what_a_dialect_prints_is_read_as_what_was_sent(dialect, tmp_path, capsys):
    truth, rows = simulated(tmp_path, "--boards", "1", "--dialect", dialect)
    capsys.readouterr()
    log = tmp_path / "A.log"
    timeline = ["--timeline", str(truth / "timeline.csv"), "--zone", "+00:00"]
    command = ["frames", str(log), "--csv", *timeline, "--date", "2026-11-14", "--set", "rig=A"]
    assert main(command) == 0
    read = list(csv.DictReader(capsys.readouterr().out.splitlines()))
    heard = {(r["stop"], r["seq"]): r for r in rows if r["heard"] == "1" and r["stop"]}
    found = {(r["stop"], r["seq"]): r for r in read if r["heard"] == "1"}
    assert found.keys() == heard.keys()
    for key, row in found.items():
        assert float(row["rssi_dbm"]) == float(heard[key]["rssi_dbm"])
        assert float(row["snr_db"]) == float(heard[key]["snr_db"])


def test_levels_follow_the_path_law_of_plan(tmp_path):
    from inchmark.core.propagation.two_ray import GROUNDS, two_ray_loss_db

    flat = air(shadowing=0.1)
    for metres in (50.0, 200.0):
        loss = two_ray_loss_db(4.0, 1.5, metres, 868.1e6, ground=GROUNDS["ground"])
        assert flat.ground.loss_db("A", At(metres, "")) == pytest.approx(
            float(np.squeeze(loss)), abs=1.0
        )


def test_a_carrier_stands_walks_and_stands_again():
    route = Route(stops=[("1", 100.0), ("2", 230.0)], dwell_s=60.0, speed_m_per_s=1.3)
    stays = route.stays()
    assert [(s.stop, s.from_s, s.to_s) for s in stays] == [("1", 0.0, 60.0), ("2", 160.0, 220.0)]
    assert route.at(30, stays) == (100.0, "1")
    assert route.at(110, stays) == (pytest.approx(165.0), "")
    assert route.at(999, stays).stop == "2"
    with pytest.raises(ValueError, match="at least one stop"):
        Route(stops=[])


def test_each_trap_does_what_it_says(tmp_path):
    def rows(trap, **more):
        return list(air(traps=trap, **more).receptions())

    restarted = [one.seq for one in rows("restart")]
    assert restarted.count(0) == 2
    relayed = [one for one in rows("relay", route="40,60000", dwell=20.0) if one.hops]
    assert relayed
    assert {one.source for one in relayed} == {"relay-1"}
    assert {one.ear.receiver for one in rows("receivers")} == {"mast", "roof"}
    assert {one.ear.direction for one in rows("reply")} == {"", "far"}
    near = [one for one in rows("saturation", route="1,2") if one.heard]
    assert max(one.rssi_dbm for one in near) <= -29
    noise = [one.noise_dbm for one in rows("interference", dwell=120.0)]
    third = len(noise) // 3
    assert np.mean(noise[third : 2 * third]) - np.mean(noise[:third]) == pytest.approx(12, abs=1)
    lost = [not one.heard for one in rows("bursts", dwell=2000.0)]
    together = sum(a and b for a, b in itertools.pairwise(lost)) / max(sum(lost), 1)
    assert together > 0.5


def test_bursts_are_off_unless_asked_for():
    dice = np.random.default_rng(1)
    assert not any(Bursts(dice, on=False).lost() for _ in range(200))
    with pytest.raises(ValueError, match="is no trap"):
        named("bursts,earthquake")
    assert named("") == frozenset()
    assert named("gps , relay") == {"gps", "relay"}
    assert "gps" in TRAPS


def test_positions_are_sentences_that_a_reader_takes():
    spot = position_of(position(-54.25, 7.5, 1_794_646_800.0))
    assert (spot.lat, spot.lon) == (pytest.approx(-54.25, abs=1e-5), pytest.approx(7.5, abs=1e-5))
    assert iso_time(spot.time_s) == "2026-11-14T09:00:00Z"


def test_a_walk_over_terrain_needs_its_heights(tmp_path, capsys):
    assert main(["simulate", "--boards", "1", "--model", "terrain"]) == 2
    assert "needs --terrain FILE" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--boards", "99"), "there may be 1 to 26"),
        (("--boards", "1", "--on", "smoke"), "write tcp, pty"),
        (("--boards", "1", "--dialect", "dutch"), "is no dialect"),
        (("--boards", "1", "--with", "rain"), "is no trap"),
        (("--boards", "1", "--route", "near,far"), "numbers with commas"),
        (("--boards", "1", "--began", "noon"), "write a time like"),
        (("--boards", "1", "--interval", "0"), "above 0 s"),
        ((), "say what"),
    ],
)
def test_options_that_do_not_fit_get_a_sentence(options, words, capsys):
    assert main(["simulate", *options]) == 2
    assert words in capsys.readouterr().err


def until(true, patience_s=10.0):
    end = time.monotonic() + patience_s
    while not true():
        assert time.monotonic() < end, "it did not come about"
        time.sleep(0.02)


def test_a_board_on_tcp_answers_and_outlives_a_pulled_lead():
    board = OnTcp(lambda asked: f"OK {asked}")
    assert not board.print("into the air")
    with socket.create_connection(("127.0.0.1", board.port)) as lead:
        lines = lead.makefile("rb")
        lead.sendall(b"SF=9\n")
        assert lines.readline() == b"OK SF=9\r\n"
        assert board.print("heard")
        assert lines.readline() == b"heard\r\n"
        board.pull()
        assert lines.readline() == b""
    with socket.create_connection(("127.0.0.1", board.port)) as lead:
        until(lambda: board.print("back"))
        assert lead.makefile("rb").readline() == b"back\r\n"
    board.close()


def test_a_board_on_a_pseudo_terminal_answers_like_a_serial_port():
    board = OnPty(lambda asked: f"OK {asked}")
    lead = os.open(board.words.removeprefix("serial:"), os.O_RDWR | os.O_NOCTTY)
    assert board.print("hello")
    assert os.read(lead, 100) == b"hello\r\n"
    os.write(lead, b"POWER 14\n")
    assert os.read(lead, 100) == b"OK POWER 14\r\n"
    os.close(lead)
    board.close()


def test_a_board_on_udp_sends_a_datagram_a_line():
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as listener:
        listener.bind(("127.0.0.1", 0))
        board = OnUdp(f"127.0.0.1:{listener.getsockname()[1]}")
        board.print("one")
        assert listener.recv(100) == b"one"
        board.close()


def test_a_walk_at_a_pace_waits_and_ends_when_told(tmp_path, capsys):
    from inchmark.devices.simulator.outlets import OnFile
    from inchmark.devices.simulator.play import Play

    out = OnFile(tmp_path / "A.log")
    play = Play(air(interval=0.5), {"A": ("keys", out)}, 0.0, pace=5.0)
    thread = threading.Thread(target=play.run)
    thread.start()
    until(lambda: len(play.truth) > 3)
    play.stop.set()
    thread.join(5)
    assert not thread.is_alive()
    assert len(play.truth) < 100
    assert len(re.findall("rx rig=A", out.path.read_text())) == sum(o.heard for o, _ in play.truth)
