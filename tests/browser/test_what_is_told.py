"""What a screen reader says of Read, and Read by keyboard alone."""

import re

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.django_db(transaction=True)


def test_a_screen_reader_says_the_answer_first_then_the_evidence_by_name(marsh, signed_in):
    page = signed_in
    page.goto(f"{marsh}/read/")
    told = page.locator("body").aria_snapshot()
    order = [
        "Skip to the page",
        'navigation "Rooms"',
        'region "Measuring tape: stops and ranges on a logarithmic scale"',
        'heading "C reaches 2.49× as far as A: +13.1 dB',
        "How is this known?",
        'figure "Frames delivered',
        'table "Every visit',
        'complementary "Side notes"',
    ]
    places = [told.index(words) for words in order]
    assert places == sorted(places)
    assert 'link "A Dulse L8 · SF7 · stub coil 388 m measured, 299 m to 459 m"' in told
    assert 'link "Stop 5, sea wall, landward, 330 m"' in told
    assert told.count('link "Stop 5, ') == 1  # the tape for phones is hidden from it too
    assert re.search(r'heading "Caution: .*order of B and A turns', told)
    assert not re.search(r"- (link|button|img)(\s*:|\s*$)", told, re.MULTILINE)  # none nameless


def test_read_is_gone_through_by_keyboard_alone(marsh, signed_in):
    page = signed_in
    page.goto(f"{marsh}/read/")
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="Skip to the page")).to_be_focused()
    page.keyboard.press("Enter")
    for _ in range(12):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.closest('.known') !== null"):
            break
    page.keyboard.press("Enter")
    expect(page.get_by_text("level there \N{MINUS SIGN} threshold").first).to_be_visible()
    page.keyboard.press("n")
    expect(page.get_by_label("Side notes")).to_be_focused()
    page.keyboard.press("Tab")
    assert page.evaluate("document.activeElement.closest('#notes') !== null")
    page.keyboard.press("C")  # with Shift: the rig on the tape
    assert "C Dulse L8" in page.evaluate("document.activeElement.getAttribute('aria-label') || ''")
    outline = page.evaluate("getComputedStyle(document.activeElement).outlineStyle")
    assert outline != "none"


def test_nothing_moves_for_who_wants_no_motion(marsh, signed_in):
    page = signed_in
    page.goto(f"{marsh}/read/")
    moving = page.evaluate(
        """() => [...document.querySelectorAll('*')].filter(e => {
          const s = getComputedStyle(e);
          return parseFloat(s.transitionDuration) > 0.01 || parseFloat(s.animationDuration) > 0.01;
        }).length"""
    )
    assert moving == 0
