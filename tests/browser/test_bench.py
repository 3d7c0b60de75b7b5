"""The bench in the browser only: from a pasted string to two budgets with their legal check."""

import pytest
from playwright.sync_api import expect

from inchmark.demo import marsh
from inchmark.demo.services import marsh_trace
from tests.browser.test_journeys import field, fill

pytestmark = pytest.mark.django_db(transaction=True)
LADDER_LOG = "rig,stop,seq,heard,condition\n" + "".join(
    f"A,bench,{i},{int(i < heard)},{attenuation}\n"
    for attenuation, sent, heard in marsh.LADDER
    for i in range(sent)
)
SAWN_OFF = "# MHz S RI R 50\n800 0.5 0\n940 0.5\n"
NO_NUMBERS = "# MHz S RI R 50\n868 zero point one\n"

BACKWARDS = "time_s,current_mA\n" + "".join(f"{i},{5 - 9 * (i == 20)}\n" for i in range(40))
BAD_TRACES = (
    ("empty.csv", "", "empty"),
    ("nan.csv", "time_s,current_mA\n0,nan\n", "no finite number"),
    ("negative.csv", BACKWARDS, "under zero"),
)


def shelf(page, name):
    page.get_by_role("navigation", name="Shelf").get_by_role("link", name=name, exact=True).click()


def press(page, name):
    page.get_by_role("button", name=name, exact=True).click()


def add_module_with_a_setting(page):
    shelf(page, "Modules")
    page.get_by_role("link", name="Add a module").click()
    fill(page, {"Name": "Kelp L8", "Settings template": "{sf},{bw:code},{cr:code},{preamble}"})
    field(page, "Connector").select_option("micro snap-on female")
    fill(
        page,
        {
            "Transmit current by power": "14 dBm, 38 mA",
            "Sleep": "1.6 uA",
            "Standby": "1.1 mA",
            "Receive": "5.3 mA",
        },
    )
    press(page, "Keep the module")
    fill(page, {"Settings string": "8,7,1,8", "The other end's": "9,7,1,8"})
    press(page, "Read the string")
    expect(page.get_by_role("row", name="Bandwidth 7 125 kHz")).to_be_visible()
    expect(page.get_by_text("must be the same at both ends")).to_be_visible()
    expect(page.get_by_text("sets no transmit power")).to_be_visible()
    expect(field(page, "Spreading factor (5 to 12)")).to_have_value("8")
    fill(page, {"Frequency": "868.3 MHz", "Transmit power": "25 mW"})
    press(page, "Keep the setting")
    expect(page.get_by_role("rowheader", name="SF8 125 kHz")).to_be_visible()


def add_antenna(page, name, gain):
    shelf(page, "Antennas")
    page.get_by_role("link", name="Add an antenna").click()
    fill(page, {"Name": name, "Gain": gain})
    press(page, "Keep the antenna")
    expect(page.get_by_role("heading", name=name)).to_be_visible()


def log_a_trim(page):
    shelf(page, "Sweeps")
    steps = (("10", "stub coil, 10 mm from metal"), ("60", "stub coil"), ("80", "half-wave whip"))
    for value, virtual in steps:
        field(page, "Antenna on the shelf").select_option("stub")
        field(page, "Trim series").fill("off the lid")
        field(page, "What is changed").fill("distance, mm")
        field(page, "Its value").fill(value)
        field(page, "On the simulated analyser's port").select_option(virtual)
        press(page, "Read from analyser")
        page.get_by_role("link", name="All sweeps").click()
    expect(page.get_by_role("figure", name="Best frequency")).to_be_visible()
    expect(page.get_by_text("Try distance, mm")).to_be_visible()


def refuse_bad_sweeps(page, tmp_path):
    for name, text, words in (
        ("sawn.s1p", SAWN_OFF, "cut off"),
        ("words.s1p", NO_NUMBERS, "is no number"),
    ):
        file = tmp_path / name
        file.write_text(text)
        field(page, "Antenna on the shelf").select_option("stub")
        field(page, "Trim series").fill("off the lid")
        field(page, "Its value").fill("1")
        field(page, "Sweep file (.s1p, .s2p)").set_input_files(file)
        press(page, "Keep the sweep")
        expect(page.get_by_role("alert").filter(has_text="Not saved")).to_contain_text(words)
        expect(field(page, "Trim series")).to_have_value("off the lid")


def build_two_rigs(page):
    shelf(page, "Rigs")
    page.get_by_role("link", name="Add a rig").click()
    field(page, "Setting").select_option("Kelp L8 · SF8 125 kHz")
    field(page, "Antenna, carried end").select_option("stub")
    field(page, "Antenna, fixed end").select_option("whip")
    press(page, "Keep the rig")
    press(page, "Copy and change one thing")
    field(page, "Antenna, carried end").select_option("whip")
    press(page, "Keep the rig")
    expect(page.get_by_text("clean: one thing changed")).to_be_visible()


def centre_a_receiver(page):
    shelf(page, "Centring")
    field(page, "Rig").select_option(index=1)
    fill(
        page,
        {
            "RSSI on the carrier": "-71 dBm",
            "Steps": "-34,20,0\n-28,20,17\n0,20,20\n34,20,20\n37,20,14\n43,20,0",
        },
    )
    press(page, "Keep the centring")
    expect(page.get_by_role("heading", name="Set the offset to")).to_be_visible()
    expect(page.get_by_text("pair them again")).to_be_visible()


def run_a_ladder(page, tmp_path):
    shelf(page, "Conducted")
    log = tmp_path / "bench.csv"
    log.write_text(LADDER_LOG)
    field(page, "Rig").select_option(index=1)
    fill(page, {"Transmit power": "0 dBm", "Loss of cables and adapters (dB)": "20"})
    field(page, "or a frame log").set_input_files(log)
    press(page, "Keep the ladder")
    expect(page.get_by_role("heading", name="Half of the frames lost at −122")).to_be_visible()
    press(page, "Use in budgets")


def import_a_trace(page, tmp_path):
    shelf(page, "Current")
    for name, text, words in BAD_TRACES:
        (tmp_path / name).write_text(text)
        field(page, "Rig").select_option(index=1)
        field(page, "Unit (serial)").fill("K-01")
        field(page, "Trace (CSV)").set_input_files(tmp_path / name)
        press(page, "Keep the trace")
        expect(page.get_by_role("alert")).to_contain_text(words)
        expect(field(page, "Unit (serial)")).to_have_value("K-01")
    (tmp_path / "trace.csv").write_text(marsh_trace())
    field(page, "Trace (CSV)").set_input_files(tmp_path / "trace.csv")
    press(page, "Keep the trace")
    expect(page.get_by_role("rowheader", name="Receive window")).to_be_visible()
    expect(page.get_by_text("the datasheet’s sum", exact=True)).to_be_visible()


def read_both_budgets(page):
    page.get_by_role("link", name="Decide").click()
    source = "half lost, conducted"  # one ladder serves both: they share module and setting
    for letter, gain in (("A", "-2"), ("B", "2.15")):
        page.goto(page.url.split("?")[0] + f"?rig={letter}")
        expect(page.get_by_role("table", name="Carried end to fixed end")).to_contain_text(source)
        expect(page.get_by_role("table", name="Fixed end to carried end")).to_be_visible()
        expect(page.get_by_label("Antenna, dB").first).to_have_value(gain)
        legal = page.get_by_role("table", name="Both ends against the table of limits")
        expect(legal).to_contain_text("868–868.6 MHz")
        expect(legal).to_contain_text("from memory")


def test_the_bench_from_a_pasted_string_to_two_budgets(signed_in, tmp_path):
    page = signed_in
    page.get_by_role("link", name="New study").click()
    field(page, "Name of the study").fill("Sluice gates")
    press(page, "Start the study")
    add_module_with_a_setting(page)
    add_antenna(page, "stub", "-2 dBi")
    add_antenna(page, "whip", "0 dBd")
    log_a_trim(page)
    refuse_bad_sweeps(page, tmp_path)
    build_two_rigs(page)
    centre_a_receiver(page)
    run_a_ladder(page, tmp_path)
    import_a_trace(page, tmp_path)
    read_both_budgets(page)
