"""A walk as it is walked: boards over the bridge, taps, a phone without a network, a second browser.

Two web processes share the port, as `./start` has them, so that what one keeps is shown by the other.
"""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import pytest
from playwright.sync_api import expect

from inchmark.people.models import User
from inchmark.people.services import make_access_token, make_sign_in_link
from inchmark.walk.models import Frame, FrameFile, Mark, Visit
from tests import make
from tests.browser.conftest import serious_axe_findings

ROOT = Path(__file__).resolve().parents[2]
BOARDS = "ABCD"


@pytest.fixture
def app(transactional_db, app_process_environment):
    """Two web processes on one port; its address."""
    with socket.create_server(("127.0.0.1", 0)) as shared:
        shared.set_inheritable(True)
        command = [sys.executable, "-m", "inchmark.config.serve", "--fd", str(shared.fileno())]
        running = [
            subprocess.Popen(
                command,
                cwd=ROOT,
                env=app_process_environment | {"INCHMARK_ROLE": "web"},
                pass_fds=(shared.fileno(),),
            )
            for _ in range(2)
        ]
        url = f"http://127.0.0.1:{shared.getsockname()[1]}"
        for _ in range(100):
            try:
                urllib.request.urlopen(f"{url}/health/live", timeout=5).read()
                break
            except OSError:
                time.sleep(0.2)
        yield url
        for one in running:
            one.terminate()
        for one in running:
            one.wait(20)


@pytest.fixture
def outing():
    """A walk of four rigs and three stops, and somebody who may log into it."""
    user = make.user("demo")
    return make.walk(make.field_study(user, rigs=BOARDS, stops=3))


def opened(browser, app, **options):
    context = browser.new_context(**options)
    page = context.new_page()
    page.set_default_timeout(15_000)
    page.goto(f"{app}/sign-in/{make_sign_in_link(User.objects.get(username='demo'))}/")
    page.get_by_role("main").get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Which rig reaches far enough").wait_for()
    return page


def started(arguments, **options):
    environment = os.environ | {"PYTHONPATH": str(ROOT / "src"), "PYTHONUNBUFFERED": "1"}
    command = [sys.executable, "-m", "inchmark.cli", *arguments]
    return subprocess.Popen(command, cwd=ROOT, env=environment, **options)


@pytest.fixture
def bridged(app, outing, tmp_path):
    """Four simulated boards of different dialects, and the bridge that brings their lines."""
    token = tmp_path / "token"
    user = User.objects.get(username="demo")
    token.write_text(make_access_token(user, name="bridge", only_walk=outing.pk))
    boards = started(
        ["simulate", "--boards", "4", "--on", "tcp", "--route", "20,40", "--dwell", "300",
         "--interval", "0.1", "--seed", "5"], stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    named = [boards.stdout.readline().split()[0] for _ in BOARDS]
    post = f"{app}/api/walks/{outing.pk}/lines"
    arguments = ["bridge", "--spool", str(tmp_path / "spool"), "--post", post]
    arguments += ["--token-file", str(token)]
    for one in named:
        arguments += ["--source", one, "--set", f"{one[0]}:rig={one[0]}"]
    bridge = started(arguments, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL)

    def stop():
        for one in (bridge, boards):
            one.terminate()
            one.wait(20)

    yield stop
    stop()
    boards.stdout.close()


def tap(page, group, name):
    page.get_by_role("group", name=group).get_by_role("button", name=name).click()


def test_four_boards_are_walked_live_with_a_phone_and_a_desk(browser, app, outing, bridged, worker):
    address = f"{app}/studies/{outing.study_id}/walk/{outing.pk}"
    desk = opened(browser, app)
    desk.goto(f"{address}/live/")
    expect(desk.locator("#line")).to_have_text("Live.")
    tap(desk, "Stop", "1 50 m")
    expect(desk.locator("#place")).to_contain_text("Stop 1")
    for letter in BOARDS:
        expect(desk.locator("#links")).to_contain_text(letter)
    expect(desk.locator(".live-link")).to_have_count(4)
    expect(desk.locator(".live-enough.done")).to_have_count(4, timeout=60_000)
    assert serious_axe_findings(desk) == []

    second = opened(browser, app)  # somebody at the fixed end
    second.goto(f"{address}/live/")
    expect(second.locator(".live-link")).to_have_count(4)
    tap(second, "Carried", "in a pocket")
    expect(desk.locator("#place")).to_contain_text("in a pocket")
    expect(desk.locator(".live-head").first).to_contain_text("in a pocket")

    phone = opened(browser, app, viewport={"width": 390, "height": 844}, has_touch=True)
    phone.goto(f"{address}/thumb/")
    expect(phone.locator("body[data-offline=ready]")).to_be_attached()
    expect(phone.get_by_label("Stop")).to_have_value("1")
    expect(phone.get_by_label("Carried")).to_have_value("in a pocket")
    expect(desk.locator("#people")).to_contain_text("by thumb")
    phone.context.set_offline(True)
    phone.get_by_label("Stop").select_option("2")
    phone.get_by_role("button", name="Heard", exact=True).click()
    phone.get_by_role("button", name="Missed", exact=True).click()
    phone.get_by_text("More").click()
    phone.get_by_label("Note", exact=True).fill("a lorry stood between")
    phone.get_by_role("button", name="Keep", exact=True).click()
    expect(phone.locator("#kept")).to_contain_text("4 kept on this phone")
    picture = {"name": "x.jpg", "mimeType": "image/jpeg", "buffer": make.picture().getvalue()}
    phone.get_by_label("Photo shows").fill("antenna against the rail")
    phone.get_by_label("Take a photo").set_input_files(picture)
    expect(phone.locator("#kept")).to_contain_text("5 kept on this phone")
    phone.reload()
    expect(phone.locator("body[data-ready=yes]")).to_be_attached()
    expect(phone.locator("#kept")).to_contain_text("5 kept on this phone")
    phone.context.set_offline(False)
    expect(desk.locator("#place")).to_contain_text("Stop 2", timeout=20_000)
    expect(desk.locator("#marks")).to_contain_text("a lorry stood between")
    expect(phone.locator("#kept")).to_contain_text("sent", timeout=60_000)

    photo = outing.photos.get()
    assert (photo.stop.label, photo.text) == ("2", "antenna against the rail")
    said = list(outing.marks.values_list("kind", "stop__label", "condition"))
    assert [one for one in said if one[0] == Mark.PLACE] == [
        ("place", "1", ""), ("place", "1", "in a pocket"), ("place", "2", "in a pocket"),
    ]  # fmt: skip
    for page in (desk, second, phone):
        page.context.close()


def test_what_is_stored_is_what_the_boards_said(browser, app, outing, bridged, worker):
    desk = opened(browser, app)
    desk.goto(f"{app}/studies/{outing.study_id}/walk/{outing.pk}/live/")
    expect(desk.locator("#line")).to_have_text("Live.")
    tap(desk, "Stop", "1 50 m")
    expect(desk.locator(".live-link")).to_have_count(4)
    desk.wait_for_timeout(4000)
    tap(desk, "Stop", "3 200 m")
    expect(desk.locator(".live-head").first).to_contain_text("stop 3")
    desk.wait_for_timeout(3000)
    desk.context.close()
    bridged()  # no line is to come while they are counted
    for _ in range(100):
        files = list(FrameFile.objects.all())
        if files and all(file.state == FrameFile.READ for file in files):
            break
        time.sleep(0.3)
    lines = b"".join(bytes(c.data) for f in files for c in f.chunks.all()).count(b"\n")
    assert {file.said["rig"] for file in files} == set(BOARDS)
    assert sum(file.line_count for file in files) == lines
    stops = set(Visit.objects.values_list("stop__label", flat=True))
    assert stops == {"1", "3"}
    for file in files:
        told = Frame.objects.filter(file=file, heard=True)
        assert told.count() == told.values("seq").distinct().count()
