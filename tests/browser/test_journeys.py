"""The whole job in the browser, as a new user would do it."""

import re

import pytest
from playwright.sync_api import expect

from inchmark.core.simulation import SimulatedRig
from inchmark.devices.simulator.turns import EXAMPLE_STOPS, example_log
from inchmark.walk.models import Visit

pytestmark = pytest.mark.django_db(transaction=True)
LOG, STOPS = example_log(5)


def field(page, label):
    return page.get_by_label(label, exact=True)


def fill(page, values):
    for label, value in values.items():
        field(page, label).fill(value)


def start_study(page):
    page.get_by_role("link", name="Plan a walk").click()
    page.get_by_role("link", name="Does it reach").click()
    fill(
        page,
        {
            "Name of the study": "Sluice gates",
            "The question it answers": "Which antenna reaches every gate?",
            "Needed distance": "0.4 km",
        },
    )
    page.get_by_role("button", name="Start the study").click()


def add_rig(page, letter, antenna, gain):
    page.get_by_role("link", name="Add a rig").click()
    expect(field(page, "Letter")).to_have_value(letter)
    fill(
        page,
        {
            "Module's name": "Dulse L8",
            "Antenna's name, carried end": antenna,
            "Antenna gain, carried end (dBi)": gain,
            "Transmit power": "25 mW",
        },
    )
    page.locator("summary", has_text="Figures typed instead of parts").click()
    fill(page, {"Noise figure (dB)": "18"})
    page.get_by_role("button", name="Keep the rig").click()
    expect(page.get_by_role("link", name="Dulse L8").first).to_be_visible()


def add_stop(page, label, distance):
    page.get_by_role("link", name="Add a stop").click()
    fill(page, {"Stop": label, "Distance": distance, "±": "3 m"})
    field(page, "Measured by").select_option("rangefinder")
    page.get_by_role("button", name="Keep the stop").click()
    expect(page.get_by_role("link", name=label, exact=True)).to_be_visible()


def plan_two_rigs(page):
    start_study(page)
    add_rig(page, "A", "stub coil", "-2")
    add_rig(page, "B", "half-wave whip", "2.5")
    page.get_by_role("link", name="On to the stops").click()


def start_walk(page, interval="2 s"):
    page.get_by_role("link", name="On to the walk").click()
    field(page, "Beacon interval").fill(interval)
    page.get_by_role("button", name="Start the walk").click()
    expect(page.get_by_role("heading", name="Walk 1")).to_be_visible()


def to_the_answer(page):
    page.get_by_role("link", name="Read what it says").click()
    answer = page.locator("#answer")
    expect(answer).to_contain_text(re.compile("reaches|told apart"), timeout=60_000)
    return answer


def test_from_sign_in_to_the_answer_by_uploading_a_log(signed_in, worker, tmp_path):
    page = signed_in
    plan_two_rigs(page)
    add_stop(page, "1", "30 m")
    stops = tmp_path / "stops.csv"
    stops.write_text(STOPS)
    field(page, "Stops file").set_input_files(stops)
    page.get_by_role("button", name="Read stops").click()
    expect(page.get_by_text("6 stops added. 1 were known already")).to_be_visible()
    start_walk(page)
    log = tmp_path / "walk.csv"
    log.write_text(LOG + "A,1,2O,1,,-60,40,-117,\n")
    field(page, "Frame log").set_input_files(log)
    page.get_by_role("button", name="Upload the log").click()
    expect(page.get_by_role("cell", name="read", exact=True)).to_be_visible(timeout=60_000)
    correct_the_bad_line(page)
    answer = to_the_answer(page)
    expect(answer).to_contain_text("B reaches 1.")
    expect(page.get_by_text("At the needed 400 m")).to_be_visible()
    follow_a_figure_to_its_frames(page)
    page.get_by_role("link", name="Decide").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("at 400 m keeps")


def correct_the_bad_line(page):
    page.get_by_role("table", name="Logs of this walk").get_by_role("link", name="1").click()
    line = page.get_by_label("Line 842")
    expect(page.get_by_text("seq is “2O”, which is not a number.")).to_be_visible()
    line.fill("A,1,60,1,,-60,40,-117,")
    page.get_by_role("button", name="Correct and read again").click()
    expect(page.get_by_text("1 lines corrected")).to_be_visible()
    expect(page.get_by_role("table", name="Logs of this walk")).to_contain_text(
        "841", timeout=60_000
    )


def follow_a_figure_to_its_frames(page):
    """From the answer to a frame in two clicks: a note's evidence, or a count in the table."""
    page.get_by_role("link", name="heard: frames of rig A at stop 6").click()
    expect(page.get_by_role("table", name="Frames as logged")).to_contain_text("walk.csv")
    expect(page.get_by_text("line ").first).to_be_visible()
    page.get_by_role("link", name="Back to the table").click()


def test_from_sign_in_to_the_answer_with_simulated_boards(signed_in, worker):
    page = signed_in
    plan_two_rigs(page)
    for i, metres in enumerate((30, 80, 200, 450, 900), start=1):
        add_stop(page, str(i), f"{metres} m")
    start_walk(page, interval="")
    page.get_by_role("button", name="Walk with simulated boards").click()
    expect(page.get_by_role("cell", name="read", exact=True)).to_be_visible(timeout=60_000)
    to_the_answer(page)
    counted = {(v.rig.letter, v.stop.label): v.sent for v in Visit.objects.all()}
    assert len(counted) == 2 * 5
    assert all(abs(sent - 60) <= 2 for (_, stop), sent in counted.items() if stop != "5")
    page.get_by_role("link", name="Decide").click()
    expect(page.get_by_role("table", name="Range of each rig under each rule")).to_be_visible()


def test_bad_input_keeps_what_was_typed_and_says_what_to_do(signed_in):
    page = signed_in
    page.get_by_role("link", name="Plan a walk").click()
    page.get_by_role("link", name="Does it reach").click()
    fill(page, {"Name of the study": "Sluice gates", "Needed distance": "0,4 km"})
    page.get_by_role("button", name="Start the study").click()
    summary = page.get_by_role("alert").filter(has_text="Not saved.")
    expect(summary).to_be_focused()
    expect(summary).to_contain_text("Write 0.4 km.")
    expect(field(page, "Name of the study")).to_have_value("Sluice gates")


def test_the_examples_are_what_they_say():
    """The log of these journeys: two rigs over seven stops, B stronger by 4.5 dB at 1 m."""
    assert len(EXAMPLE_STOPS) == 7
    assert LOG.count("\n") == 2 * 60 * 7 + 1
    assert SimulatedRig(level_at_1m_dbm=-20, threshold_dbm=-110).reading_dbm(-90.4, -117) == -90
