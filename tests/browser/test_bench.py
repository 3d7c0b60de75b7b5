"""The bench in the browser: two antennas compared from files, a centring, a noisy trace, and no account."""

import numpy as np
import pytest
from playwright.sync_api import expect

from inchmark.people.models import User
from inchmark.shelf.adapters.traces import reading_of
from inchmark.shelf.models import CurrentTrace
from inchmark.shelf.services.shelf_files import starter_shelf, take_in
from tests import make
from tests.browser.test_journeys import field, fill
from tests.shelf.test_sweeps import resonant_at

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def bench(signed_in, live_server):
    """A study with the starter shelf and one rig of it."""
    study = make.field_study(User.objects.get(username="demo"))
    take_in(study, starter_shelf())
    return f"{live_server}/studies/{study.pk}/shelf"


def bring_sweep(page, bench, antenna, mhz, state=""):
    page.goto(f"{bench}/sweeps/")
    field(page, "Antenna on the shelf").select_option(label=antenna)
    if state:
        field(page, "As it stands").select_option(label=state)
    data = {"name": f"{antenna}.s1p", "mimeType": "text/plain", "buffer": resonant_at(mhz)}
    field(page, "Sweep file (.s1p, .s2p)").set_input_files(data)
    page.get_by_role("button", name="Keep the sweep").click()
    expect(page.get_by_role("heading", name=antenna)).to_be_visible()


def test_two_antennas_are_compared_from_their_files_to_range_power_and_price(signed_in, bench):
    page = signed_in
    bring_sweep(page, bench, "stub coil", 830)
    bring_sweep(page, bench, "half-wave whip", 868)
    expect(page.locator("[data-sweep] svg .curve")).to_be_visible()
    page.get_by_role("link", name="Side by side").click()
    page.get_by_role("link", name="Antennas", exact=True).last.click()
    page.get_by_label("stub coil", exact=True).check()
    page.get_by_label("half-wave whip", exact=True).check()
    field(page, "Held against").select_option(label="stub coil")
    fill(page, {"Exponent of the paths": "3", "Working frequency": "868 MHz"})
    page.get_by_role("button", name="Set them side by side").click()
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_contain_text("Half-wave whip has 4.9 dB on stub coil: 1.46 times the range")
    expect(heading).to_contain_text("% of the power saved")
    expect(heading).to_contain_text("a dB")
    expect(page.locator("[data-sweep] svg .curve")).to_have_count(2)
    page.locator("[data-sweep] svg").hover()
    expect(page.locator("[data-sweep] .readout")).to_contain_text("VSWR")
    with page.expect_download() as saved:
        page.get_by_role("link", name="CSV").click()
    assert "gained_dB" in saved.value.path().read_text().splitlines()[0]


def test_what_metal_costs_and_retuning_gives_back_is_told(signed_in, bench):
    page = signed_in
    for state, mhz in (("free", 868), ("near metal", 820), ("retuned near metal", 866)):
        bring_sweep(page, bench, "half-wave whip", mhz, state)
    page.goto(f"{bench}/sweeps/")
    expect(page.get_by_text("Metal costs").first).to_contain_text("retuning gives back")
    expect(page.locator("[data-sweep] svg .curve")).to_have_count(3)


def test_a_centring_by_the_modules_own_steps_is_followed_up(signed_in, bench):
    page = signed_in
    page.goto(f"{bench}/centrings/")
    field(page, "Rig").select_option(index=1)
    field(page, "Offsets are in the module’s own steps").check()
    fill(page, {"Going down, lost at": "-57", "Coming up, back at": "-54"})
    fill(page, {"Coming down, back at": "29", "Going up, lost at": "31"})
    page.get_by_role("button", name="Keep the centring").click()
    expect(page.get_by_role("heading", name="Set the offset to −13 steps")).to_be_visible()
    page.get_by_role("button", name="Done", exact=True).first.click()
    expect(page.get_by_role("heading", name="2 still to be done")).to_be_visible()
    field(page, "Frames sent at the middle").fill("30")
    field(page, "Frames heard at the middle").fill("30")
    page.get_by_role("button", name="Done", exact=True).last.click()
    expect(page.get_by_text("30 of 30 frames heard")).to_be_visible()


def noisy_trace():
    """Three messages with a fifth of each level as noise."""
    dice, parts = (
        np.random.default_rng(5),
        ((0.4, 3e-6), (0.05, 40e-3), (0.1, 1.2e-3), (0.04, 11e-3), (0.4, 3e-6)),
    )
    current = np.concatenate([np.full(round(s / 5e-4), a) for s, a in parts * 3])
    current = current * (1 + 0.2 * dice.standard_normal(current.size))
    rows = "\n".join(f"{i * 5e-4:.4f},{1e3 * one:.6f}" for i, one in enumerate(current))
    return f"time_s,current_mA\n{rows}".encode()


def test_a_noisy_trace_falls_into_states_and_a_boundary_is_dragged(signed_in, bench):
    page = signed_in
    page.goto(f"{bench}/traces/")
    field(page, "Rig").select_option(index=1)
    data = {"name": "noisy.csv", "mimeType": "text/csv", "buffer": noisy_trace()}
    field(page, "Trace (CSV)").set_input_files(data)
    page.get_by_role("button", name="Keep the trace").click()
    states = page.get_by_role("table", name="States of the trace")
    for name in ("Sleep", "Wake", "Receive window", "Transmit"):
        expect(states.get_by_role("rowheader", name=name)).to_be_visible()
    before = reading_of(CurrentTrace.objects.get())
    line = page.locator("[data-edge='0']")
    box = line.bounding_box()
    page.mouse.move(box["x"] + 50, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + 50, box["y"] - 10, steps=4)
    page.mouse.up()
    typed = field(page, "up to").first
    expect(typed).to_be_visible()
    page.get_by_role("button", name="Take it apart so").click()
    expect(page.locator("button[name=as-found]")).to_be_attached()
    after = reading_of(CurrentTrace.objects.get())
    assert after.edges_a[0] > 1.1 * before.edges_a[0]
    assert after.edges_a[1:] == pytest.approx(before.edges_a[1:], rel=0.01)
    assert len(after.states) == 4


def test_a_workbench_answer_becomes_a_study_after_signing_in(signed_in, live_server):
    page = signed_in
    page.goto(f"{live_server}/workbench/reach/")
    field(page, "Frequency").fill("869.5 MHz")
    link = page.get_by_role("link", name="Start a study with these")
    expect(link).to_have_attribute(
        "href",
        "/workbench/begin/?power=14+dBm&sensitivity=-123+dBm&frequency=869.5+MHz&height1=4+m&height2=1.5+m",
    )
    link.click()
    fill(page, {"Name of the study": "Gates by the dyke"})
    page.get_by_role("button", name="Begin the study").click()
    expect(field(page, "Frequency")).to_have_value("869.5 MHz")
