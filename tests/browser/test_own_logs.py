"""Logs of one's own: from the start page to the answer, and a wrong rig mended by the timeline."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from inchmark.people.models import User
from tests import make
from tests.browser.conftest import serious_axe_findings
from tests.dialects import DIALECTS, walk

FOUR = ("sentences", "keys and values", "prefix and places", "JSON lines")


class Clicks:
    """Clicks of a person, counted."""

    def __init__(self, page):
        self.page, self.count = page, 0

    def on(self, role, name):
        self.count += 1
        self.page.get_by_role(role, name=name, exact=True).click()
        self.page.wait_for_load_state()

    def choose(self, files):
        """Choose files at the first door; that sends them."""
        self.count += 1
        self.page.get_by_label("Drop files anywhere").set_input_files(files)


def written(tmp_path, name, rig):
    frames = [one for one in walk(rigs="ABCD", stops=4, frames=30) if one.rig == rig]
    text = DIALECTS[name].write(frames)
    path = tmp_path / f"{name.replace(' ', '-')}.log"
    path.write_text(text)
    return path


def test_four_consoles_give_an_answer_within_ten_clicks(signed_in, live_server, worker, tmp_path):
    page = signed_in
    logs = [written(tmp_path, name, rig) for name, rig in zip(FOUR, "ABCD", strict=True)]
    page.goto(f"{live_server.url}/")
    clicks = Clicks(page)
    clicks.choose(logs)
    for name in FOUR:
        expect(
            page.get_by_role("heading", name=f"How {name.replace(' ', '-')}.log is read")
        ).to_be_visible()
        expect(page.get_by_role("table", name="Lines and what they become")).to_contain_text(
            "at stop 1"
        )
        assert serious_axe_findings(page) == []
        clicks.on("button", "Read it so")
    expect(page.get_by_role("heading", name="What the logs name")).to_be_visible()
    assert serious_axe_findings(page) == []
    for i, metres in enumerate((60, 120, 240, 480), 1):
        page.get_by_label(f"{i}, ", exact=False).first.fill(f"{metres} m")
    clicks.on("button", "Make them and read")
    expect(page.locator("#answer")).to_contain_text("reaches", timeout=60_000)
    assert clicks.count <= 10


TABLES = {
    "comma": ("board,point,counter,ok,rssi\n", "{rig},{stop},{seq},{heard},{rssi}\n"),
    "semicolon": ("Rig;Stop;Seq;RSSI [dBm];SNR\n", "{rig};{stop};{seq};{rssi};7,5\n"),
}


def table(tmp_path, kind):
    """Write a table of two boards at four stops, as somebody's own script would."""
    head, row = TABLES[kind]
    lines = [head]
    for one in walk(rigs="AB", stops=4, frames=40):
        if not one.heard and kind == "semicolon":
            continue  # this logger writes only what it heard
        rssi = one.rssi if one.heard else ""
        lines.append(
            row.format(rig=one.rig, stop=one.stop, seq=one.seq, heard=int(one.heard), rssi=rssi)
        )
    path = tmp_path / f"{kind}.csv"
    path.write_text("".join(lines))
    return path


@pytest.mark.parametrize("kind", sorted(TABLES))
def test_a_table_gives_an_answer_within_six_clicks(signed_in, live_server, worker, tmp_path, kind):
    page = signed_in
    page.goto(f"{live_server.url}/")
    clicks = Clicks(page)
    clicks.choose([table(tmp_path, kind)])
    page.wait_for_url("**/studies/**")
    if page.get_by_role("button", name="Read it so", exact=True).count():
        clicks.on("button", "Read it so")
    for i, metres in enumerate((60, 120, 240, 480), 1):
        page.get_by_label(f"{i}, ", exact=False).first.fill(f"{metres} m")
    clicks.on("button", "Make them and read")
    answered = re.compile("reach|cannot be told apart yet")
    expect(page.locator("#answer")).to_contain_text(answered, timeout=60_000)
    assert clicks.count <= 6


def timed_log(tmp_path):
    path = tmp_path / "board.log"
    lines = [f"13:{i // 6:02d}:{i % 6 * 10:02d} rx seq={i} rssi=-{80 + i % 9}" for i in range(120)]
    path.write_text("\n".join(lines))
    return path


WRONG_RIG = "from,to,stop,rig\n13:00,13:05,1,A\n13:05,13:08,1,B\n13:08,13:20,2,A\n"
TWO_STOPS = "from,to,stop,rig\n13:00,13:10,1,A\n13:10,13:20,2,A\n"


def read_by(page, walk, log, stays):
    """Upload a log to a walk, say who stood where, and read it by its proposed recipe."""
    page.goto(walk)
    page.get_by_label("Frame log").set_input_files(log)
    page.get_by_role("button", name="Upload the log").click()
    page.get_by_role("link", name="timeline").click()
    page.get_by_role("textbox", name="Stays").fill(stays)
    page.get_by_role("button", name="Keep the timeline").click()
    page.get_by_role("link", name="Back to the walk").click()
    page.get_by_role("link", name="Say how it is read").click()
    page.get_by_role("button", name="Read it so").click()


@pytest.fixture
def outing(signed_in):
    by = User.objects.get(username="demo")
    return make.walk(make.field_study(by, rigs="AB", stops=2))


def test_a_wrong_rig_for_three_minutes_is_mended_by_the_timeline(
    signed_in, live_server, outing, tmp_path
):
    page = signed_in
    read_by(page, f"{live_server.url}{outing.get_absolute_url()}", timed_log(tmp_path), WRONG_RIG)
    visits = page.get_by_role("table", name="Visits of this walk")
    expect(visits.get_by_role("row")).to_have_count(4)
    expect(visits).to_contain_text("18")
    page.get_by_role("link", name="Timeline").click()
    expect(page.get_by_role("group", name="Stays above, frames of each log below")).to_be_visible()
    assert serious_axe_findings(page) == []
    page.get_by_role("textbox", name="Stays").fill(
        "from,to,stop,rig\n13:00,13:08,1,A\n13:08,13:20,2,A\n"
    )
    page.get_by_role("button", name="Keep the timeline").click()
    expect(page.get_by_text("1 log was read anew")).to_be_visible()
    page.get_by_role("link", name="Back to the walk").click()
    expect(page.get_by_role("table", name="Visits of this walk").get_by_role("row")).to_have_count(
        3
    )


def dragged(page, edge, by):
    """Drag an end of a stay by so many pixels."""
    box = edge.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + by / 2, y)
    page.mouse.move(x + by, y)
    page.mouse.up()


def test_a_boundary_is_dragged_and_the_frames_follow(signed_in, live_server, outing, tmp_path):
    page = signed_in
    read_by(page, f"{live_server.url}{outing.get_absolute_url()}", timed_log(tmp_path), TWO_STOPS)
    page.get_by_role("link", name="Timeline").click()
    end = page.get_by_role("slider", name="stop 1, rig A, 13:00 to 13:10: its end")
    dragged(page, end, 200)
    expect(page.get_by_text("The boundary is moved; 1 log was read anew by it.")).to_be_visible()
    stays = [(s.stop.label, s.from_time, s.to_time) for s in outing.stays.all()]
    assert stays[0][2] == stays[1][1]
    assert f"{stays[0][2]:%H:%M}" > "13:12"
    first = outing.visits.get(stop__label="1").sent
    assert first > 72
    page.get_by_role("slider", name="stop 2, rig A", exact=False).last.focus()
    page.keyboard.press("Shift+ArrowLeft")
    page.keyboard.press("Enter")
    expect(page.get_by_role("slider", name="to 13:19: its end")).to_be_attached()
    expect(page.get_by_text("The boundary is moved; 1 log was read anew by it.")).to_be_visible()
    assert f"{outing.stays.last().to_time:%H:%M}" == "13:19"
