"""What the bridge says to boards and hears from a broker; and its table."""

import socket
import subprocess
import threading
import time

import pytest
from rich.console import Console

from inchmark.cli import main
from inchmark.cli.bridge_table import table_of
from inchmark.devices.bridge.bridge import Bridge
from inchmark.devices.bridge.files import MAX_LINE_BYTES
from inchmark.devices.bridge.sources import SourceError, source_of
from inchmark.devices.bridge.spool import Spool
from inchmark.devices.bridge.tally import Tally
from inchmark.devices.simulator.outlets import OnMqtt, OnTcp
from tests.devices.test_bridge import App, app, said, sender, spool, until

__all__ = ["app", "said", "spool"]  # fixtures


@pytest.fixture
def broker(tmp_path):
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    settings = tmp_path / "broker.conf"
    settings.write_text(f"listener {port} 127.0.0.1\nallow_anonymous true\n")
    process = subprocess.Popen(["/usr/sbin/mosquitto", "-c", settings], stderr=subprocess.DEVNULL)
    until(lambda: answers(port))
    yield port, process
    process.terminate()
    process.wait(10)


def answers(port):
    try:
        socket.create_connection(("127.0.0.1", port), timeout=1).close()
    except OSError:
        return False
    return True


def running(bridge):
    thread = threading.Thread(target=bridge.run)
    thread.start()
    return thread


def ended(bridge, thread):
    bridge.stop.set()
    thread.join(30)
    assert not thread.is_alive()


def test_what_a_board_answers_is_kept_and_sent(spool, app, said, monkeypatch):
    monkeypatch.setattr("inchmark.devices.bridge.bridge.ANSWER_S", 0.4)
    board = OnTcp(lambda asked: f"OK {asked}")
    gate = source_of(f"gate=tcp:127.0.0.1:{board.port}")
    one = sender(spool, app, said)
    bridge = Bridge(spool, [gate], one, said.append, tell={"gate": ["SF=9", "POWER?"]})
    thread = running(bridge)
    until(lambda: sum("asked" in body for _, body in App.asked) == 2)
    ended(bridge, thread)
    bodies = [body for _, body in App.asked if "asked" in body]
    assert [(b["source"], b["asked"], b["answered"]) for b in bodies] == [
        ("gate", "SF=9", "OK SF=9"),
        ("gate", "POWER?", "OK POWER?"),
    ]
    assert App.kept[("gate", bridge.start)] == ["OK SF=9", "OK POWER?"]  # lines like any other
    assert spool.next_read_back() is None
    assert "gate: told “SF=9”, it answered “OK SF=9”." in said
    board.close()


def test_a_line_for_a_board_without_a_lead_is_said_not_lost_in_silence(spool, said):
    gate = source_of("gate=tcp:127.0.0.1:9", ends=True)
    Bridge(spool, [gate], None, said.append, tell={"gate": ["SF=9"]}).run()
    assert any("was not said, no lead was there" in words for words in said)


def test_a_read_back_that_the_app_refuses_stays_here_and_is_told(spool, app, said):
    spool.keep_read_back("gate", "1", "SF=9", "OK")
    App.answers = [503, 422]
    one = sender(spool, app, said)
    assert one.step() > 0
    assert one.step() == 0
    assert any("does not take what gate answered" in words for words in said)
    assert spool.next_read_back() is None


def test_only_boards_that_can_answer_are_told_something(capsys):
    options = ["bridge", "--source", "gate=udp:4000", "--send", "gate:SF=9"]
    assert main(options) == 2
    assert "a source on tcp or serial" in capsys.readouterr().err


def test_messages_of_a_broker_are_lines_through_its_restart(broker, spool, said, tmp_path):
    port, process = broker
    gateway = source_of(f"gw=mqtt:127.0.0.1:{port}/inchmark/#")
    bridge = Bridge(spool, [gateway], None, said.append)
    thread = running(bridge)
    board = OnMqtt(f"127.0.0.1:{port}", "inchmark/A")
    time.sleep(0.5)  # the subscription is made
    board.print('{"seq": 1,\n "rssi": -80}')
    until(lambda: spool.counts().get("gw", (0, 0))[0] == 1)
    assert spool.lines_from(spool.next_batch(5), 1, 5).lines == [b'{"seq": 1,  "rssi": -80}']
    board.close()
    process.terminate()
    process.wait(10)
    until(lambda: any("tried again" in words for words in said))
    ended(bridge, thread)


def test_an_address_of_a_broker_needs_a_topic():
    with pytest.raises(SourceError, match="HOST:PORT/TOPIC"):
        source_of("gw=mqtt:127.0.0.1:1883")


def test_frames_are_counted_for_whoever_looks():
    tally = Tally()
    tally.take([b"boot"])
    assert (tally.lines, tally.frames) == (1, None)
    tally.take([b"rx seq=%d rssi=-%d snr=4.5" % (i, 80 + i % 5) for i in range(30)])
    assert tally.frames == 30
    assert tally.take([b"OK SF=9", b"rx seq=30 rssi=-80 snr=4.5"]) == [b"OK SF=9"]
    tally.take([b"rx seq=31 rssi=-99 snr=1.0", b"debug"])
    assert (tally.lines, tally.frames, tally.rssi_dbm) == (35, 32, -99)


def test_the_table_shows_each_source(tmp_path, app, said):
    spool = Spool(tmp_path / "s")
    sources = [source_of("gate=udp:4000"), source_of("barn=udp:4001")]
    bridge = Bridge(spool, sources, sender(spool, app, said), said.append)
    lines = [b"rx seq=%d rssi=-%d snr=4.5" % (i, 80 + i % 5) for i in range(30)]
    spool.keep("gate", "1", lines)
    bridge.tallies.take("gate", lines)
    console = Console(width=100, record=True, file=open("/dev/null", "w"))  # noqa: SIM115
    console.print(table_of(bridge))
    shown = console.export_text()
    console.file.close()
    row = next(line for line in shown.splitlines() if "gate" in line)
    assert [cell.strip() for cell in row.strip("│ ").split("│")][1:] == [
        "30", "30", "-84 dBm", "", "30",
    ]  # fmt: skip
    assert "barn" in shown
    spool.close()


def followed(path, spool, said, text="", *, more=b""):
    """Let a bridge of its own follow a file until its lines are kept; return how many there are."""
    bridge = Bridge(spool, [source_of(f"log=file:{path}")], None, said.append)
    thread = running(bridge)
    if more:
        with path.open("ab") as file:
            file.write(more)
    until(lambda: text.encode() in b"\n".join(kept(spool)))
    ended(bridge, thread)
    return kept(spool)


def kept(spool):
    with spool.lock:
        return [bytes(row[0]) for row in spool.line.execute("SELECT text FROM line ORDER BY id")]


def test_a_file_is_followed_on_where_the_bridge_before_was_stopped(tmp_path, spool, said):
    path = tmp_path / "board.log"
    path.write_bytes(b"one\r\ntwo\nth")
    assert followed(path, spool, said, "two") == [b"one", b"two"]
    assert followed(path, spool, said, "four", more=b"ree\nfour\n") == [
        b"one", b"two", b"three", b"four",
    ]  # fmt: skip
    starts = {row[0] for row in spool.line.execute("SELECT start FROM line")}
    assert len(starts) == 1


def test_a_file_written_anew_is_another_start(tmp_path, spool, said):
    path = tmp_path / "board.log"
    path.write_bytes(b"boot\none\n")
    followed(path, spool, said, "one")
    path.write_bytes(b"boot\nuno\ndos\ntres\n")
    assert followed(path, spool, said, "tres")[2:] == [b"boot", b"uno", b"dos", b"tres"]
    starts = {row[0] for row in spool.line.execute("SELECT start FROM line")}
    assert len(starts) == 2


def test_a_file_that_is_not_there_is_waited_for(tmp_path, spool, said):
    path = tmp_path / "later.log"
    bridge = Bridge(spool, [source_of(f"log=file:{path}")], None, said.append)
    thread = running(bridge)
    until(lambda: any("tried again until it is there" in words for words in said))
    path.write_bytes(b"x" * (MAX_LINE_BYTES + 10) + b"\nend\n")
    until(lambda: b"end" in kept(spool))
    ended(bridge, thread)
    assert [len(line) for line in kept(spool)] == [MAX_LINE_BYTES + 10, 3]


def test_a_last_line_without_an_end_is_kept_once_nothing_follows(
    tmp_path, spool, said, monkeypatch
):
    monkeypatch.setattr("inchmark.devices.bridge.files.SETTLED_S", 0.0)
    path = tmp_path / "board.log"
    path.write_bytes(b"one\nlast")
    assert followed(path, spool, said, "one") == [b"one", b"last"]
