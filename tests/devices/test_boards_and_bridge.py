"""The example of a walk, and the reader of any board's lines."""

import socket
import threading

import pytest

from inchmark.devices.serial_bridge import BridgeError, read_lines
from inchmark.devices.simulator.turns import example_log


def test_the_same_seed_walks_the_same_walk():
    assert example_log(7) == example_log(7)
    assert example_log(7) != example_log(8)


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
