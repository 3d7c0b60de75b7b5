"""A board on the browser's own serial port: a stand-in port, the real page, the real app."""

from __future__ import annotations

from playwright.sync_api import expect

from inchmark.people.models import User
from inchmark.walk.models import FrameFile
from inchmark.walk.services.receive import file_bytes
from tests import make
from tests.browser.conftest import serious_axe_findings

# a port as the Web Serial API has it, which prints what the test tells it
PORT = """
const said = [];
let tell = null;
window.board = { print: (text) => tell.enqueue(new TextEncoder().encode(text)), said };
const port = {
  open: async (options) => {
    said.push(options);
    port.readable = new ReadableStream({ start: (own) => { tell = own; } });
  },
  setSignals: async (signals) => said.push(signals),
  close: async () => said.push("closed"),
  readable: null,
};
Object.defineProperty(navigator, "serial", { value: { requestPort: async () => port } });
"""
LINES = [f"[13:02:{i:02d}.000] rx rig=A seq={i} rssi=-{80 + i % 7} snr=4.5" for i in range(30)]


def outing():
    return make.walk(make.field_study(User.objects.get(username="demo"), rigs="A", stops=2))


def address(live_server, walk):
    return f"{live_server.url}/studies/{walk.study_id}/walk/{walk.pk}/serial/"


def stored():
    return [line for file in FrameFile.objects.all() for line in
            b"".join(file_bytes(file)).decode().splitlines()]  # fmt: skip


def test_a_boards_lines_come_in_through_an_outage_each_once(signed_in, live_server, problems):
    page, walk = signed_in, outing()
    page.add_init_script(PORT)
    page.goto(address(live_server, walk))
    assert serious_axe_findings(page) == []
    page.get_by_label("Name of the source").fill("gate")
    page.get_by_label("Rig, where the lines do not say").select_option("A")
    page.get_by_role("button", name="Choose the port and read").click()
    expect(page.locator("#serial-state")).to_have_text("reading")
    assert page.evaluate("board.said") == [
        {"baudRate": 115200},
        {"dataTerminalReady": False, "requestToSend": False},
    ]
    page.evaluate("text => board.print(text)", "\r\n".join(LINES[:10]) + "\r\n" + LINES[10][:9])
    expect(page.locator("#serial-read")).to_have_text("10")
    expect(page.locator("#serial-unsent")).to_have_text("0")
    page.context.set_offline(True)
    page.evaluate("text => board.print(text)", LINES[10][9:] + "\n" + "\n".join(LINES[11:]) + "\n")
    expect(page.locator("#serial-unsent")).to_contain_text("the app is away")
    page.context.set_offline(False)
    # it tries again five seconds after the last post that failed
    expect(page.locator("#serial-unsent")).to_have_text("0", timeout=15_000)
    problems.clear()  # the failed posts
    page.get_by_role("button", name="Stop reading").click()
    expect(page.locator("#serial-state")).to_have_text("not reading")
    assert stored() == LINES
    assert FrameFile.objects.get().said["rig"] == "A"


def test_what_was_not_sent_is_sent_when_the_page_is_opened_again(signed_in, live_server, problems):
    page, walk = signed_in, outing()
    page.add_init_script(PORT)
    page.goto(address(live_server, walk))
    page.get_by_role("button", name="Choose the port and read").click()
    expect(page.locator("#serial-state")).to_have_text("reading")
    page.route("**/lines/", lambda route: route.abort())
    page.evaluate("text => board.print(text)", "\n".join(LINES) + "\n")
    expect(page.locator("#serial-unsent")).to_contain_text("30 – the app is away")
    assert stored() == []
    problems.clear()  # the failed posts
    page.unroute("**/lines/")
    page.goto(address(live_server, walk))
    expect(page.locator("#serial-unsent")).to_have_text("0")
    assert stored() == LINES


def test_a_browser_without_serial_ports_says_so(signed_in, live_server):
    page, walk = signed_in, outing()
    page.add_init_script("Object.defineProperty(Navigator.prototype, 'serial', {get: undefined});"
                         "delete Navigator.prototype.serial;")  # fmt: skip
    page.goto(address(live_server, walk))
    expect(page.locator("#no-serial")).to_contain_text("cannot read serial ports")
    expect(page.get_by_role("button", name="Choose the port and read")).to_be_disabled()
