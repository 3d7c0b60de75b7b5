"""The bridge: every line to disk first, to the app once, through every interruption."""

import json
import os
import pty
import socket
import threading
import time
from http.server import BaseHTTPRequestHandler, HTTPServer

import pytest

from inchmark.devices.bridge.bridge import Bridge
from inchmark.devices.bridge.files import MAX_LINE_BYTES
from inchmark.devices.bridge.sender import Sender
from inchmark.devices.bridge.sources import Cut, SourceError, source_of
from inchmark.devices.bridge.spool import Spool

PATIENCE_S = 20.0


class App(BaseHTTPRequestHandler):
    """A stand-in for the app's door: numbers lines as the app does."""

    kept: dict = {}
    asked: list = []
    answers: list = []  # codes to answer with before it works

    def do_POST(self):
        body = json.loads(self.rfile.read(int(self.headers["Content-Length"])))
        type(self).asked.append((self.headers["Authorization"], body))
        code = self.answers.pop(0) if self.answers else 200
        if code != 200:
            return self._answer(code, {"detail": "not now"})
        if self.path.endswith("/read-backs"):
            return self._answer(200, {"read_back": 1})
        own = self.kept.setdefault((body["source"], body["start"]), [])
        if body["first"] > len(own) + 1:
            return self._answer(409, {"detail": "gap", "wanted": len(own) + 1})
        own.extend(body["lines"][len(own) + 1 - body["first"] :])
        return self._answer(200, {"file": 1, "through": len(own)})

    def _answer(self, code, body):
        self.send_response(code)
        self.end_headers()
        self.wfile.write(json.dumps(body).encode())

    def log_message(self, *args):
        pass


@pytest.fixture
def app():
    App.kept, App.asked, App.answers = {}, [], []
    server = HTTPServer(("127.0.0.1", 0), App)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}/lines"
    server.shutdown()
    server.server_close()


@pytest.fixture
def spool(tmp_path):
    one = Spool(tmp_path / "spool.sqlite")
    yield one
    one.close()


@pytest.fixture
def said():
    return []


def until(true):
    end = time.monotonic() + PATIENCE_S
    while not true():
        assert time.monotonic() < end, "it did not come about"
        time.sleep(0.02)


OPENED = []


@pytest.fixture(autouse=True)
def lines_are_closed():
    yield
    while OPENED:
        OPENED.pop().door.close()


def sender(spool, url, said, **more):
    OPENED.append(Sender(spool, url, "secret", said.append, waits=(0.01,), **more))
    return OPENED[-1]


def test_lines_are_kept_on_disk_and_go_out_once(tmp_path, app, said):
    spool = Spool(tmp_path / "s.sqlite")
    spool.keep("gate", "1", [b"one", b"two"])
    spool.close()  # as if killed: another process opens the file
    spool = Spool(tmp_path / "s.sqlite")
    spool.keep("gate", "1", [b"three"])
    one = sender(spool, app, said, constants={"gate": {"rig": "A"}})
    assert one.step() == 0.0
    assert App.kept == {("gate", "1"): ["one", "two", "three"]}
    assert App.asked[0][0] == "Bearer secret"
    assert App.asked[0][1]["constants"] == {"rig": "A"}
    assert spool.counts() == {"gate": (3, 0)}
    assert one.step() > 0
    assert len(App.asked) == 1
    spool.close()


def test_an_app_that_is_away_loses_nothing_and_is_told_of_once(spool, app, said):
    spool.keep("gate", "1", [b"one"])
    App.answers = [503, 503, 503]
    one = sender(spool, app, said)
    for _ in range(4):
        one.step()
    assert App.kept == {("gate", "1"): ["one"]}
    assert len(said) == 2
    assert "answered 503: not now" in said[0]
    assert said[1] == "The app answers again."
    away = sender(spool, "http://127.0.0.1:9/lines", said)
    spool.keep("gate", "1", [b"two"])
    assert away.step() > 0
    assert "does not answer" in said[-1]
    with pytest.raises(ValueError, match="must start with http"):
        sender(spool, "ftp://x", said)


def test_an_app_that_lost_lines_gets_them_again(spool, app, said):
    spool.keep("gate", "1", [b"one", b"two"])
    one = sender(spool, app, said)
    one.step()
    App.kept = {}  # a database put back to an older state
    spool.keep("gate", "1", [b"three"])
    one.step()
    assert App.kept == {("gate", "1"): ["one", "two", "three"]}
    assert spool.counts() == {"gate": (3, 0)}


def test_bytes_that_are_no_text_are_sent_as_they_stand(spool, app, said):
    spool.keep("gate", "1", [b"\xff\xfe7\xb0C", "7°C".encode()])
    sender(spool, app, said).step()
    assert App.kept[("gate", "1")] == ["ÿþ7°C", "7°C"]


def test_lines_are_cut_at_their_ends_and_endless_ones_at_the_limit():
    cut = Cut()
    assert cut.take(b"one\r\ntw") == [b"one"]
    assert cut.take(b"o\nthree") == [b"two"]
    assert cut.last() == [b"three"]
    assert len(cut.take(b"x" * (MAX_LINE_BYTES + 10))[0]) == MAX_LINE_BYTES + 10
    assert cut.last() == []


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("gate", "NAME=KIND:ADDRESS"),
        ("gate=radio:1", "must begin with"),
        ("gate=tcp:here", "must be HOST:PORT"),
        ("gate=udp:99999", "must be HOST:PORT"),
        ("gate=serial:/dev/x@fast", "a device and a rate"),
    ],
)
def test_an_address_that_is_none_gets_a_sentence(text, words):
    with pytest.raises(SourceError, match=words):
        source_of(text)


def served(lines, port=0):
    """A board on TCP that says its lines to one who comes, and closes."""
    server = socket.create_server(("127.0.0.1", port))

    def serve():
        line, _ = server.accept()
        with line:
            line.sendall("".join(f"{one}\n" for one in lines).encode())
        server.close()

    threading.Thread(target=serve, daemon=True).start()
    return server.getsockname()[1]


def test_a_board_that_goes_and_comes_back_goes_on(spool, app, said):
    port = served(["one", "two"])
    bridge = Bridge(
        spool, [source_of(f"gate=tcp:127.0.0.1:{port}")], sender(spool, app, said), said.append
    )
    thread = threading.Thread(target=bridge.run)
    thread.start()
    until(lambda: App.kept.get(("gate", bridge.start)) == ["one", "two"])
    served(["three"], port)
    until(lambda: App.kept[("gate", bridge.start)] == ["one", "two", "three"])
    bridge.stop.set()
    thread.join(PATIENCE_S)
    assert not thread.is_alive()
    assert any("tried again until it is back" in words for words in said)
    assert "gate: 3 lines, 0 unsent" in bridge.words()


def test_a_source_that_ends_ends_the_bridge_when_all_is_sent(spool, app, said):
    port = served([f"line {i}" for i in range(1200)])
    source = source_of(f"gate=tcp:127.0.0.1:{port}", ends=True)
    bridge = Bridge(spool, [source], sender(spool, app, said), said.append)
    bridge.run()
    assert len(App.kept[("gate", bridge.start)]) == 1200


def test_a_growing_file_datagrams_and_a_serial_port_are_sources_too(spool, said, tmp_path):
    log = tmp_path / "board.log"
    log.write_text("one\n")
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    board, device = pty.openpty()
    sources = [
        source_of(f"file=file:{log}"),
        source_of(f"air=udp:{port}"),
        source_of(f"lead=serial:{os.ttyname(device)}@9600"),
    ]
    bridge = Bridge(spool, sources, None, said.append)
    thread = threading.Thread(target=bridge.run)
    thread.start()
    with log.open("a") as more:
        more.write("two\n")
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as line:

        def heard():
            line.sendto(b"beat", ("127.0.0.1", port))
            return "air" in spool.counts()

        until(heard)

    def spoken():
        os.write(board, b"rx seq=1\n")
        return "lead" in spool.counts()

    until(spoken)
    until(lambda: spool.counts().get("file", (0, 0))[0] == 2)
    bridge.stop.set()
    thread.join(PATIENCE_S)
    os.close(board)
    os.close(device)
    assert spool.counts()["file"] == (2, 2)


def test_without_an_app_lines_are_only_kept(spool, said):
    port = served(["one"])
    Bridge(spool, [source_of(f"gate=tcp:127.0.0.1:{port}", ends=True)], None, said.append).run()
    assert spool.counts() == {"gate": (1, 1)}
