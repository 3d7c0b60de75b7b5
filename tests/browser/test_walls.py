"""A house on the map: a wall drawn by clicks, a map without terrain, places behind it, all by keyboard and mouse."""

import re

import pytest
from playwright.sync_api import expect

from inchmark.plan.models import Site, SitePoint, Stop
from inchmark.plan.services import place_fixed_end, save_stop
from inchmark.plan.services.points import save_point
from inchmark.studies.models import Study
from tests import make
from tests.browser.conftest import serious_axe_findings

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def house(live_server):
    """A fixed end inside, stops to the east and north, a node in the far room."""
    study = make.study(make.user("demo"), needed_m=20)
    make.rig(study, height_m=1.0, fixed_height_m=2.0)
    place_fixed_end(study, Site(lat=47.5, lon=-21.0, model="indoor", shadowing_db=4.0))
    for i, (north, east) in enumerate(((0, 8), (4, 4), (0, 16), (9, 9))):
        save_stop(
            study, Stop(label=f"{i + 1}", lat=47.5 + north / 111_195, lon=-21.0 + east / 75_336)
        )
    save_point(study, SitePoint(kind="node", name="far room", lat=47.5, lon=-21.0 + 22 / 75_336))
    return study


def click(page, x, y):
    area = page.locator("#site-map")
    size = area.bounding_box()
    area.click(position={"x": x * size["width"], "y": y * size["height"]})


def draw_a_wall(page):
    click(page, 0.42, 0.25)
    page.get_by_role("button", name="A wall begins here").click()
    expect(page.locator("#map-said")).to_have_text("Click where the wall goes on.")
    expect(page.get_by_role("button", name="Keep this wall")).to_be_disabled()
    click(page, 0.42, 0.6)
    click(page, 0.42, 0.9)
    expect(page.locator("#map-said")).to_contain_text("3 points")
    page.get_by_role("button", name="Take the last point back").click()
    expect(page.locator("#map-said")).to_contain_text("2 points")
    click(page, 0.42, 0.9)
    page.get_by_role("button", name="Keep this wall").click()
    page.get_by_label("What it is").fill("middle wall")
    page.get_by_label("Made of").select_option("brick")
    page.get_by_label("Thickness").fill("24 cm")
    assert len(page.get_by_label("Its points, one a line").input_value().splitlines()) == 3
    page.get_by_role("button", name="Keep the wall").click()


def test_a_wall_is_drawn_counts_and_can_be_taken_back(house, signed_in, live_server, worker):
    page = signed_in
    page.goto(f"{live_server.url}/studies/{house.pk}/plan/map/")
    expect(page.get_by_text("What paths go through inside")).to_be_visible()
    draw_a_wall(page)
    row = page.get_by_role("row", name=re.compile("middle wall"))
    expect(row).to_contain_text("24 cm brick")
    expect(row).to_contain_text("5.6 dB")
    expect(page.locator("path.map-wall")).to_have_count(2)  # the wall, and the pen
    page.get_by_role("button", name="Draw the map of A").click()
    expect(page.get_by_text("by free space and 1 wall drawn")).to_be_visible(timeout=60_000)
    page.get_by_role("link", name="Show it").click()
    expect(page.locator("path.map-band").first).to_be_attached()
    assert serious_axe_findings(page) == []
    page.get_by_role("link", name="Predicted", exact=True).click()
    expect(page.get_by_text("1 wall drawn")).to_be_visible()
    page.locator("a", has_text=re.compile("N1")).filter(has_text="from the side").first.click()
    expect(page.get_by_text("1 wall (middle wall)")).to_be_visible()
    page.goto(f"{live_server.url}/studies/{house.pk}/plan/map/")
    page.get_by_role("button", name="Remove middle wall").click()
    expect(page.get_by_text("The wall “middle wall” is removed.")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(row).to_be_visible()
    assert Study.objects.get(pk=house.pk).walls.count() == 1
