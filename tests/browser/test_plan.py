"""A field day planned in the browser only, from a GPX file and a terrain file to the run sheet."""

import pytest
from playwright.sync_api import expect

from inchmark.demo.services import marsh_features, marsh_terrain
from tests.browser.conftest import serious_axe_findings
from tests.browser.test_journeys import add_rig, field, fill, start_study
from tests.formats.test_site_files import GPX, TRACK

pytestmark = pytest.mark.django_db(transaction=True)
LEAD = 1.0005  # the track leads north east, over the ridge
POINTS = "".join(
    f'<wpt lat="{47.5 + 0.0045 * share}" lon="{-21.0 + 0.0107 * share}"><name>{name}</name></wpt>'
    for name, share in (("wall", 0.1), ("carr", 0.25), ("bend", 0.5), ("far", LEAD))
)
NULL_ISLAND = GPX.format('<wpt lat="0" lon="0"/>')


def press(page, name):
    page.get_by_role("button", name=name, exact=True).click()


def go(page, name):
    page.get_by_role("navigation", name="Plan").get_by_role("link", name=name, exact=True).click()


def read_stops(page, tmp_path, name, text):
    (tmp_path / name).write_text(text)
    field(page, "Stops file").set_input_files(tmp_path / name)
    press(page, "Read stops")


def refuse_bad_files(page, tmp_path):
    for name, text, words in (
        ("empty.gpx", GPX.format(""), "holds no point"),
        ("null.gpx", NULL_ISLAND, "lies at 0, 0"),
        ("track.gpx", TRACK, "Say every how many metres"),
    ):
        read_stops(page, tmp_path, name, text)
        expect(page.get_by_role("alert")).to_contain_text(words)
    (tmp_path / "photo.tif").write_bytes(b"no terrain at all")
    field(page, "Terrain").set_input_files(tmp_path / "photo.tif")
    press(page, "Keep the terrain")
    expect(page.get_by_role("alert")).to_contain_text("no terrain grid")


def place_the_fixed_end(page):
    page.get_by_role("link", name="Place the fixed end").click()
    fill(page, {"Latitude (degrees)": "0", "Longitude (degrees)": "0"})
    press(page, "Keep the fixed end")
    expect(page.get_by_role("alert")).to_contain_text("sea off Africa")
    fill(page, {"Latitude (degrees)": "47.5", "Longitude (degrees)": "-21.0"})
    field(page, "Paths are predicted by").select_option("terrain")
    press(page, "Keep the fixed end")


def refuse_a_stop_on_the_fixed_end(page):
    page.get_by_role("link", name="Add a stop").click()
    fill(page, {"Latitude": "47.5", "Longitude": "-21.0"})
    press(page, "Keep the stop")
    expect(page.get_by_role("alert")).to_contain_text("lies on the fixed end")
    go(page, "Site and stops")


def add_needed_places_and_a_receiver(page, tmp_path):
    field(page, "Read its places as").select_option("places that need a node")
    gates = (("gate", 47.5025, -20.9985), ("far gate", 47.5032, -20.9904))
    read_stops(
        page,
        tmp_path,
        "gates.gpx",
        GPX.format(
            "".join(
                f'<wpt lat="{lat}" lon="{lon}"><name>{name}</name></wpt>'
                for name, lat, lon in gates
            )
        ),
    )
    expect(page.get_by_text("2 places that need a node added.")).to_be_visible()
    page.get_by_role("link", name="Add a place").click()
    field(page, "What it is").select_option("a further receiver")
    fill(page, {"What stands there": "mast", "Latitude": "47.504", "Longitude": "-20.99"})
    press(page, "Keep the place")
    expect(page.get_by_role("rowheader", name="R1 mast")).to_be_visible()
    go(page, "From above")
    (tmp_path / "marsh.geojson").write_text(marsh_features())
    field(page, "Features").set_input_files(tmp_path / "marsh.geojson")
    press(page, "Draw the features")
    expect(page.get_by_text("marsh.geojson is drawn.")).to_be_visible()
    expect(page.get_by_role("button", name="Needed place N2")).to_be_visible()
    expect(page.get_by_role("row", name="N2 far gate")).to_contain_text("mast")
    expect(page.locator("path.map-line").first).to_be_attached()


def see_the_paths(page):
    go(page, "Predicted")
    expect(page.get_by_role("rowheader", name="4 far")).to_be_visible()
    expect(page.get_by_text("of frames").first).to_be_visible()
    page.get_by_role("link", name="path to stop 4").click()
    expect(page.get_by_role("figure", name="The path from the side")).to_be_visible()
    expect(page.get_by_text("by delta-Bullington")).to_be_visible()
    go(page, "From above")
    press(page, "Draw the map of A")
    expect(page.get_by_text("Frames of A expected")).to_be_visible(timeout=60_000)
    expect(page.get_by_role("button", name="Stop 4")).to_be_visible()
    page.get_by_role("link", name="Show it").click()
    expect(page.locator("path.map-band").first).to_be_attached()


def reckon_the_power(page):
    go(page, "Question and design")
    field(page, "Question").select_option("Which of two is better?")
    field(page, "Date").fill("2026-11-14")
    page.get_by_label("near water or tide").check()
    press(page, "Keep the plan")
    expect(
        page.get_by_text("B against A").or_(page.get_by_text("A against B")).first
    ).to_be_visible()
    press(page, "Walk the plan 200 times")
    expect(page.get_by_text("of 200 simulated walks settled it")).to_be_visible(timeout=60_000)


def read_the_day(page):
    go(page, "Field day")
    expect(page.get_by_role("heading", name="in the field, back at")).to_be_visible()
    expect(page.get_by_text("sunset")).to_be_visible()
    expect(page.get_by_text("within a row of the table").first).to_be_visible()
    page.get_by_role("link", name="Start the walk").click()
    press(page, "Start the walk")
    expect(page.get_by_role("alert")).to_contain_text("not read yet: near water or tide")
    page.go_back()
    page.go_back()
    page.get_by_label("Near water or tide").check()
    field(page, "Your name").fill("Kim")
    press(page, "I have read these")
    expect(page.get_by_text("Read by Kim")).to_be_visible()
    go(page, "Run sheet")
    expect(page.get_by_role("table", name="Visits in order")).to_be_visible()
    expect(page.get_by_alt_text("QR code leading to the counts of stop 4")).to_be_visible()
    assert len(page.pdf(format="A4")) > 10_000


def type_the_counts_in(page):
    go(page, "Field day")
    page.get_by_role("link", name="Start the walk").click()
    press(page, "Start the walk")
    expect(page.get_by_role("alert")).to_contain_text("Rig B breaks every row of the limits")
    page.go_back()
    page.go_back()
    go(page, "Question and design")
    field(page, "Why a limit may be broken").fill("test licence")
    press(page, "Keep the plan")
    go(page, "Field day")
    page.get_by_role("link", name="Start the walk").click()
    press(page, "Start the walk")
    page.get_by_role("link", name="Type in counts of the run sheet").click()
    page.get_by_label("Sent of rig A, pass 1").fill("60")
    page.get_by_label("Heard of rig A, pass 1").fill("61")
    press(page, "Keep, and on to stop 2")
    expect(page.get_by_text("More frames heard than sent")).to_be_visible()
    page.get_by_label("Heard of rig A, pass 1").fill("57")
    press(page, "Keep, and on to stop 2")
    expect(page.get_by_text("1 count of stop 1 kept.")).to_be_visible()
    expect(page.get_by_role("heading", name="Stop 2")).to_be_visible()
    assert serious_axe_findings(page) == []


def test_a_field_day_from_a_gpx_and_terrain_to_the_run_sheet(signed_in, worker, tmp_path):
    page = signed_in
    start_study(page)
    add_rig(page, "A", "stub coil", "-2")
    add_rig(page, "B", "half-wave whip", "2.5")
    page.get_by_role("link", name="On to the stops").click()
    place_the_fixed_end(page)
    refuse_bad_files(page, tmp_path)
    refuse_a_stop_on_the_fixed_end(page)
    read_stops(page, tmp_path, "marsh.gpx", GPX.format(POINTS))
    expect(page.get_by_text("4 stops added.")).to_be_visible()
    (tmp_path / "marsh.asc").write_text(marsh_terrain())
    field(page, "Terrain").set_input_files(tmp_path / "marsh.asc")
    press(page, "Keep the terrain")
    expect(page.get_by_text("marsh.asc is kept.")).to_be_visible()
    add_needed_places_and_a_receiver(page, tmp_path)
    see_the_paths(page)
    reckon_the_power(page)
    read_the_day(page)
    found = {}
    for name in ("Site and stops", "From above", "Predicted", "Question and design", "Field day"):
        go(page, name)
        found[name] = serious_axe_findings(page)
    assert {where: what for where, what in found.items() if what} == {}
    type_the_counts_in(page)
