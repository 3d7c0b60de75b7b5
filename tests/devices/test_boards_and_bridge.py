"""Simulated boards over a real connection, and the bridge that reads any board."""

import json
import socket
import threading

import pytest

from inchmark.devices.serial_bridge import BridgeError, read_lines
from inchmark.devices.simulated_boards import EXAMPLE_STOPS, example_boards, example_log
from inchmark.formats.frame_log.reader import read_frame_log


def test_boards_print_a_whole_walk_that_the_log_reader_reads():
    boards = example_boards(3)
    boards.start()
    lines = list(read_lines("127.0.0.1", boards.port))
    assert len(lines) == 2 * 60 * len(EXAMPLE_STOPS)
    pieces = list(read_frame_log(lines))
    assert [bad for piece in pieces for bad in piece.bad] == []
    assert sum(len(b) for piece in pieces for b in piece.blocks) == len(lines)
    first = json.loads(lines[0])
    assert first["stop"] == "1"
    assert "rssi_dbm" in first


def test_the_same_seed_walks_the_same_walk():
    assert example_log(7) == example_log(7)
    assert example_log(7) != example_log(8)


def test_a_reader_that_hangs_up_does_not_upset_the_boards():
    boards = example_boards(1)
    thread = boards.start()
    with socket.create_connection(("127.0.0.1", boards.port)) as connection:
        connection.recv(10)
    thread.join(10)
    assert not thread.is_alive()


def _silent_server():
    listener = socket.create_server(("127.0.0.1", 0))
    return listener, listener.getsockname()[1]


def test_no_board_at_the_address_is_said():
    listener, port = _silent_server()
    listener.close()
    with pytest.raises(BridgeError, match=f"No board answers at .*:{port}"):
        list(read_lines("127.0.0.1", port))


def test_a_board_that_falls_silent_is_said():
    listener, port = _silent_server()
    with listener, pytest.raises(BridgeError, match=r"sent nothing for 0\.2 s"):
        list(read_lines("127.0.0.1", port, silence_s=0.2))


def test_a_last_line_without_its_end_is_kept():
    listener, port = _silent_server()

    def serve():
        connection, _ = listener.accept()
        with connection:
            connection.sendall(b"one\ntwo")

    thread = threading.Thread(target=serve)
    thread.start()
    assert list(read_lines("127.0.0.1", port)) == [b"one\n", b"two\n"]
    thread.join()
    listener.close()
