"""Counting by thumb on a phone: offline, across a reload, undone, and each press stored once."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from inchmark.people.models import User
from inchmark.walk.models import FrameFile, Visit
from tests import make
from tests.browser.conftest import serious_axe_findings

PHONE = {"width": 390, "height": 844}


@pytest.fixture
def outing(signed_in):
    return make.walk(make.field_study(User.objects.get(username="demo"), rigs="AB", stops=3))


@pytest.fixture
def thumb(signed_in, live_server, outing):
    page = signed_in
    page.set_viewport_size(PHONE)
    page.clock.install()
    page.goto(f"{live_server.url}/studies/{outing.study_id}/walk/{outing.pk}/thumb/")
    expect(page.locator("body[data-ready=yes]")).to_be_attached()
    expect(page.locator("body[data-offline=ready]")).to_be_attached()
    return page


def press(page, *names):
    for name in names:
        page.get_by_role("button", name=name, exact=True).click()


def settle(page):
    """Let the time for Undo pass."""
    page.clock.fast_forward(40_000)
    expect(page.locator("#kept")).to_contain_text("sent")


def counts():
    return {
        (v.rig.letter, v.stop.label, v.condition, v.direction): (v.heard, v.sent)
        for v in Visit.objects.select_related("rig", "stop")
    }


def test_presses_are_kept_through_an_outage_and_a_reload_and_stored_once(
    thumb, live_server, outing, worker, problems
):
    page = thumb
    assert serious_axe_findings(page) == []
    press(page, "Heard", "Heard", "Missed", "Missed", "Undo", "Heard")
    expect(page.locator(".tally")).to_contain_text("3 of 4 heard")
    page.wait_for_timeout(300)
    page.context.set_offline(True)
    page.get_by_label("Stop").select_option("2")
    page.get_by_label("Carried").fill("in a pocket")
    press(page, "Heard", "Missed", "Missed")
    expect(page.locator(".tally")).to_contain_text("1 of 3 heard")
    page.reload()
    expect(page.locator("body[data-ready=yes]")).to_be_attached()
    expect(page.locator("#kept")).to_contain_text("kept on this phone")
    expect(page.get_by_label("Stop")).to_have_value("2")
    expect(page.locator(".tally")).to_contain_text("1 of 3 heard")
    press(page, "Heard")
    page.context.set_offline(False)
    settle(page)
    expect(page.locator("#kept")).to_have_text("all 8 sent")
    page.wait_for_timeout(200)
    file = FrameFile.objects.get()
    until(page, lambda: FrameFile.objects.get().frame_count == 8)
    assert file.line_count == 8
    assert counts() == {
        ("A", "1", "", ""): (3, 4),
        ("A", "2", "in a pocket", ""): (2, 4),
    }
    problems.clear()  # the failed posts


def until(page, true):
    for _ in range(150):
        if true():
            return
        page.wait_for_timeout(100)
    raise AssertionError("it did not come about")


def test_replies_are_counted_as_answers(thumb, worker):
    page = thumb
    page.get_by_text("More").click()
    page.get_by_label("A question was sent: count whether its reply came").check()
    press(page, "Reply came", "No reply", "Reply came")
    expect(page.locator(".tally")).to_contain_text("2 of 3 answered")
    settle(page)
    until(page, lambda: FrameFile.objects.get().frame_count == 3)
    assert counts() == {("A", "1", "", "replies"): (2, 3)}


def test_a_second_tab_does_not_count_too(thumb):
    page = thumb
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.locator("#other-tab")).to_be_visible()
    expect(other.get_by_role("button", name="Heard")).to_be_disabled()
    other.close()


def test_buttons_are_large_and_nothing_overflows_in_the_sun(thumb):
    page = thumb
    page.get_by_text("More").click()
    for _ in range(2):
        page.locator("[data-theme-next]").click()
    expect(page.locator("html")).to_have_attribute("data-theme", "sun")
    box = page.get_by_role("button", name="Heard").bounding_box()
    assert box["height"] >= 120
    assert box["width"] >= 340
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    assert serious_axe_findings(page) == []


def test_the_page_is_light(thumb):
    sizes = thumb.evaluate(
        "performance.getEntries().filter(e => e.transferSize !== undefined).map(e => [e.name, e.encodedBodySize])"
    )
    assert sum(size for _, size in sizes) < 150_000


def test_counts_that_were_typed_outlive_a_lost_network(signed_in, live_server, outing, problems):
    page = signed_in
    address = f"{live_server.url}/studies/{outing.study_id}/walk/{outing.pk}/counts/?stop=1"
    page.goto(address)
    page.get_by_label("sent of rig A").fill("60")
    page.get_by_label("heard of rig A").fill("47")
    page.context.set_offline(True)
    page.get_by_role("button", name="Keep").click(no_wait_after=True)
    page.wait_for_timeout(500)
    page.context.set_offline(False)
    problems.clear()  # the browser's own page says that there is no network
    page.goto(address)
    expect(page.get_by_label("heard of rig A")).to_have_value("47")
    expect(page.get_by_text("has not reached the app")).to_be_visible()
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_text("kept.")).to_be_visible()
    assert [(c.sent, c.heard) for c in outing.counts.all()] == [(60, 47)]
    page.goto(address)
    expect(page.get_by_text("has not reached the app")).to_be_hidden()
