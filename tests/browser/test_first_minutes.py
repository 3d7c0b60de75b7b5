"""First minutes: the guided reading, one practice walk from door to truth, and jump by keyboard."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from inchmark.learn.figures.guide import STEPS
from tests import make
from tests.browser.conftest import serious_axe_findings

pytestmark = pytest.mark.django_db(transaction=True)


def test_the_guided_reading_runs_to_its_end_and_points_at_the_real_pages(
    demo, signed_in, live_server
):
    page = signed_in
    page.goto(f"{live_server.url}/")
    page.get_by_role("link", name="A reading with a guide").click()
    for number, step in enumerate(STEPS, start=1):
        guide = page.get_by_role("complementary", name="Reading with a guide")
        expect(guide).to_contain_text(f"{number} of {len(STEPS)} · {step.title}")
        expect(page.locator(".pointed-at")).to_be_visible()
        expect(page.locator(".pointed-at")).to_be_in_viewport()
        assert serious_axe_findings(page) == []
        guide.get_by_role("button", name="Next" if number < len(STEPS) else "Done").click()
    expect(page.get_by_role("complementary", name="Reading with a guide")).to_have_count(0)


def test_a_practice_walk_from_the_door_to_its_truth(signed_in, live_server, worker):
    page = signed_in
    page.goto(f"{live_server.url}/")
    page.get_by_role("link", name="Practise first").click()
    assert serious_axe_findings(page) == []
    page.get_by_role("button", name="The lane along the river").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("60 of 60 minutes left")
    board = page.url
    assert serious_axe_findings(page) == []
    page.get_by_label("Frames of each rig").fill("30")
    page.get_by_role("button", name="Walk", exact=True).click()
    page.wait_for_url("**/walk/**")
    page.get_by_role("navigation", name="Rooms").get_by_role("link", name="Read").click()
    expect(page.locator("#answer")).to_contain_text(re.compile("reach|told apart"), timeout=90_000)
    page.goto(board)
    expect(page.get_by_role("heading", level=1)).not_to_contain_text("60 of 60")
    page.get_by_role("button", name="Show the truth").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("truths lie within")
    expect(page.get_by_role("table", name="Truth beside claim")).to_contain_text("path exponent")
    expect(page.get_by_role("main")).to_contain_text("distance came from a road sign")
    assert serious_axe_findings(page) == []


def test_jump_leads_anywhere_by_keyboard_alone_and_keys_can_be_turned_off(
    demo, signed_in, live_server
):
    page = signed_in
    page.goto(f"{live_server.url}{demo.get_absolute_url()}")
    page.keyboard.press("/")
    expect(page.get_by_role("dialog", name="Jump to")).to_be_visible()
    expect(page.locator("#jump-found")).to_contain_text("Decide: options")
    page.keyboard.type("stop 2")
    page.keyboard.press("Control+A")
    page.keyboard.type("places")
    expect(page.locator("#jump-found").get_by_role("link").first).to_contain_text("Decide: places")
    assert serious_axe_findings(page) == []
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    page.wait_for_url("**/decide/places/")
    page.keyboard.press("Control+k")
    page.keyboard.type("walk 1")
    expect(page.locator("#jump-found").get_by_role("link").first).to_contain_text("walk 1")
    page.keyboard.press("Enter")
    page.wait_for_url(f"**{demo.walks.first().get_absolute_url()}")
    page.keyboard.press("4")
    page.wait_for_url("**/read/")
    page.evaluate("localStorage.setItem('inchmark-keys', 'off')")
    page.keyboard.press("/")
    expect(page.get_by_role("dialog", name="Jump to")).to_be_hidden()


def test_files_dropped_anywhere_on_the_start_page_begin_a_study(signed_in, live_server):
    page = signed_in
    page.goto(f"{live_server.url}/")
    page.evaluate(
        """text => {
          const held = new DataTransfer();
          held.items.add(new File([text], "dropped.csv"));
          for (const kind of ["dragover", "drop"])
            document.querySelector("h1").dispatchEvent(
              new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: held }));
        }""",
        make.frames_log(),
    )
    expect(page.get_by_role("heading", name="What the logs name")).to_be_visible()
