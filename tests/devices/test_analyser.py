"""Reading a sweep from an analyser over TCP, simulated or silent or something else entirely."""

import contextlib
import socket
import threading

import numpy as np
import pytest

from inchmark.devices import analyser as client
from inchmark.devices.analyser import AnalyserError, SweepRange, read_sweep
from inchmark.devices.simulated_analyser import ANTENNAS, IDENTITY, SimulatedAnalyser
from inchmark.formats.touchstone import read_touchstone, touchstone_text

WANTED = SweepRange(start_hz=800e6, stop_hz=940e6, points=141)


@pytest.mark.parametrize("antenna", sorted(ANTENNAS))
def test_what_is_read_is_what_the_antenna_reflects(antenna):
    with SimulatedAnalyser(antenna=antenna) as analyser:
        name, reflection = read_sweep("127.0.0.1", analyser.port, WANTED)
    frequencies = np.linspace(800e6, 940e6, 141)
    assert name == IDENTITY
    np.testing.assert_allclose(reflection, ANTENNAS[antenna].reflection(frequencies), atol=1e-8)


def test_metal_nearby_pulls_the_resonance_down():
    best = {}
    for antenna in ("stub", "stub-metal"):
        with SimulatedAnalyser(antenna=antenna) as analyser:
            _, reflection = read_sweep("127.0.0.1", analyser.port, WANTED)
        best[antenna] = int(np.argmin(np.abs(reflection)))
    assert best["stub-metal"] < best["stub"]


def test_one_analyser_serves_sweep_after_sweep():
    with SimulatedAnalyser() as analyser:
        first = read_sweep("127.0.0.1", analyser.port, WANTED)[1]
        second = read_sweep("127.0.0.1", analyser.port, WANTED)[1]
    np.testing.assert_array_equal(first, second)


def test_a_read_sweep_is_a_touchstone_file_like_any_other():
    with SimulatedAnalyser() as analyser:
        name, reflection = read_sweep("127.0.0.1", analyser.port, WANTED)
    sweep = read_touchstone(
        touchstone_text(WANTED.frequency_hz, reflection, comment=name).encode()
    ).sweep
    np.testing.assert_allclose(sweep.reflection, reflection, atol=1e-8)
    assert sweep.frequency_hz[0] == 800e6


def _answering(answer):
    """A server that answers everything it is asked with one line."""
    listener = socket.create_server(("127.0.0.1", 0))

    def serve():
        connection, _ = listener.accept()
        with connection, connection.makefile("rb") as lines:
            for line in lines:
                if line.strip().endswith(b"?") or b"?" in line:
                    if answer is None:
                        return
                    connection.sendall(answer)

    thread = threading.Thread(target=serve, daemon=True)
    thread.start()
    return listener, listener.getsockname()[1]


@pytest.mark.parametrize(
    ("answer", "words"),
    [
        (b"220 mail ready\n", "which is no sweep"),
        (b"0.1,0.2\n", "sent 1 points instead of 141"),
        (b"nan," * 281 + b"nan\n", "instead of 141"),
        (None, "No analyser answers at"),
    ],
)
def test_what_is_no_analyser_is_said(answer, words):
    listener, port = _answering(answer)
    with listener, pytest.raises(AnalyserError, match=words):
        read_sweep("127.0.0.1", port, WANTED)


def test_a_silent_address_is_said(monkeypatch):
    monkeypatch.setattr(client, "ANSWER_TIMEOUT_S", 0.2)
    listener = socket.create_server(("127.0.0.1", 0))
    with listener, pytest.raises(AnalyserError, match="No analyser answers at"):
        read_sweep("127.0.0.1", listener.getsockname()[1], WANTED)


def test_nobody_at_the_address_is_said():
    listener = socket.create_server(("127.0.0.1", 0))
    port = listener.getsockname()[1]
    listener.close()
    with pytest.raises(AnalyserError, match="No analyser answers"):
        read_sweep("127.0.0.1", port, WANTED)


@pytest.mark.parametrize(
    "elsewhere",
    ["192.0.43.8", "169.254.169.254", "fe80::1", "::ffff:169.254.1.1", "0.0.0.0", "100.64.0.1"],
)
def test_the_server_is_no_way_out_to_other_networks(elsewhere):
    with pytest.raises(AnalyserError, match="is not on a private network"):
        read_sweep(elsewhere, 80, WANTED)


@pytest.mark.parametrize("nonsense", ["a..b", "x" * 300, "\ud800"])
def test_a_name_no_host_can_have_is_said(nonsense):
    with pytest.raises(AnalyserError, match="There is no host"):
        read_sweep(nonsense, 80, WANTED)


def test_a_trickle_of_an_answer_ends_with_the_whole_deadline(monkeypatch):
    monkeypatch.setattr(client, "WHOLE_SWEEP_S", 0.3)
    listener = socket.create_server(("127.0.0.1", 0))

    def trickle():
        connection, _ = listener.accept()
        with connection, contextlib.suppress(OSError):
            while True:
                connection.sendall(b"1")
                threading.Event().wait(0.05)

    threading.Thread(target=trickle, daemon=True).start()
    with listener, pytest.raises(AnalyserError, match="No analyser answers at"):
        read_sweep("127.0.0.1", listener.getsockname()[1], WANTED)


@pytest.mark.parametrize("wrong", [{"start_hz": 950e6}, {"points": 1}, {"start_hz": 0.0}])
def test_a_range_that_is_none_is_refused(wrong):
    with pytest.raises(ValueError, match="must lie below"):
        SweepRange(**({"start_hz": 800e6, "stop_hz": 940e6, "points": 141} | wrong))


def test_an_unknown_antenna_is_named():
    with pytest.raises(ValueError, match="dish"):
        SimulatedAnalyser(antenna="dish")
