"""The main screens of the demo study: nothing serious for axe, keys, phone, themes, no scripts."""

from pathlib import Path

import pytest
from playwright.sync_api import expect

from inchmark.shelf.models import Antenna, Battery, Feed, Module, Setting, Unit
from inchmark.walk.models import Visit
from tests.browser.conftest import serious_axe_findings

pytestmark = pytest.mark.django_db(transaction=True)
SWEEP = Path(__file__).parents[1] / "reference" / "touchstone" / "whip_868_mhz_ma.s1p"
ROOMS = ("shelf", "plan", "walk", "read", "decide")
SHELVES = (
    "beside",
    "beside/antennas",
    "sweeps",
    "ladders",
    "parts/modules",
    "parts/antennas",
    "parts/feeds",
    "parts/batteries",
    "parts/units",
    "centrings",
    "close-ranges",
    "traces",
    "rules",
    "files",
)
PLANS = ("map", "predicted", "design", "day", "run-sheet", "places/new", "fixed-end")


@pytest.fixture
def signed_in(demo, signed_in):
    """A page signed in once the demo is there."""
    return signed_in


def pages_of(group, marsh):
    """The addresses of a group of views, from the root of the site."""
    if group == "rooms":
        rooms = [f"{marsh}/{room}/" for room in ROOMS]
        asked = [f"{marsh}/question/", f"{marsh}/decide/?rig=B&carried_antenna=6"]
        return ["/", "/studies/new/", "/workbench/", *rooms, *asked]
    if group == "shelves":
        return [f"{marsh}/shelf/{name}/" for name in SHELVES]
    new = f"{marsh}/shelf/modules/{Module.objects.get(name='Dulse L8').pk}/settings/new/"
    kinds = (Module, Antenna, Feed, Battery, Unit, Setting)
    parts = [part.objects.first().get_absolute_url() for part in kinds]
    return [f"{marsh}/shelf/rigs/new/", new, f"{new}?text=8,6,3,14&other=8,7,3,14", *parts]


@pytest.mark.parametrize("group", ["rooms", "shelves", "parts"])
def test_axe_finds_nothing_serious_on_any_main_view(signed_in, marsh, live_server, group):
    found = {}
    for address in pages_of(group, marsh.removeprefix(live_server.url)):
        signed_in.goto(f"{live_server.url}{address}")
        found[address] = serious_axe_findings(signed_in)
    assert {where: what for where, what in found.items() if what} == {}


def test_axe_finds_nothing_serious_where_something_was_done(signed_in, marsh):
    page, found = signed_in, {}
    page.goto(f"{marsh}/read/")
    page.get_by_role("link", name="/60 heard: frames of rig B at stop 5").click()
    found["frames"] = serious_axe_findings(page)
    page.goto(f"{marsh}/shelf/sweeps/")
    keep_a_sweep(page)
    found["sweep"] = serious_axe_findings(page)
    page.get_by_role("link", name="All sweeps").click()
    found["sweeps"] = serious_axe_findings(page)
    page.goto(f"{marsh}/shelf/ladders/")
    keep_a_ladder(page)
    found["ladders"] = serious_axe_findings(page)
    page.goto(f"{marsh}/walk/")
    page.get_by_role("link", name="Walk 1", exact=True).click()
    page.get_by_role("table", name="Logs of this walk").get_by_role("link", name="4").click()
    found["bad lines"] = serious_axe_findings(page)
    assert {where: what for where, what in found.items() if what} == {}


def test_a_trim_is_read_from_the_simulated_analyser(signed_in, marsh):
    page = signed_in
    for value, antenna in (("12", "stub coil, 10 mm from metal"), ("40", "stub coil")):
        page.goto(f"{marsh}/shelf/sweeps/")
        page.get_by_label("Antenna", exact=True).fill("stub coil")
        page.get_by_label("Trim series").fill("away from metal")
        page.get_by_label("What is changed").fill("distance, mm")
        page.get_by_label("Its value").fill(value)
        page.get_by_label("On the simulated analyser's port").select_option(antenna)
        page.get_by_role("button", name="Read from analyser").click()
        expect(page.get_by_role("heading", name="stub coil: best at")).to_be_visible()
    page.get_by_role("link", name="All sweeps").click()
    expect(page.get_by_text("Try distance 52 mm")).to_be_visible()


def keep_a_ladder(page):
    page.get_by_label("Rig", exact=True).select_option(index=1)
    page.get_by_label("Loss of cables and adapters (dB)").fill("20")
    page.get_by_label("Steps", exact=True).fill("96,60,60\n99,60,55\n101,60,30\n103,60,2\n106,60,0")
    page.get_by_role("button", name="Keep the ladder").click()
    expect(page.get_by_role("heading", name="Half of the frames lost at")).to_have_count(1)
    page.get_by_role("button", name="Use in budgets").first.click()
    expect(page.get_by_text("In use for A").first).to_be_visible()


def keep_a_sweep(page):
    field = page.get_by_label
    field("Antenna", exact=True).fill("stub coil")
    field("Trim series").fill("")  # the form takes the demo's series over; this sweep is of none
    field("Sweep file (.s1p, .s2p)").set_input_files(SWEEP)
    page.get_by_role("button", name="Keep the sweep").click()
    expect(
        page.get_by_role("heading", name="stub coil: best at 868 MHz, VSWR 1.19")
    ).to_be_visible()
    expect(page.locator("[data-sweep] svg .curve")).to_be_visible()


@pytest.mark.parametrize("theme", ["dark", "sun"])
def test_the_other_themes_hold_their_contrast_too(signed_in, marsh, theme):
    page = signed_in
    page.goto(f"{marsh}/read/")
    while page.evaluate("document.documentElement.dataset.theme") != theme:
        page.get_by_role("button", name="Change theme").click()
    assert serious_axe_findings(page) == []
    page.goto(f"{marsh}/decide/")
    assert page.evaluate("document.documentElement.dataset.theme") == theme
    assert serious_axe_findings(page) == []


def test_keys_walk_the_rooms_and_the_stops_but_not_from_a_field(signed_in, marsh):
    page = signed_in
    page.goto(f"{marsh}/read/")
    for key, room in (("1", "Shelf"), ("5", "Decide"), ("4", "Read")):
        page.keyboard.press(key)
        expect(
            page.get_by_role("link", name=room, exact=False).and_(
                page.locator("[aria-current=page]")
            )
        ).to_be_visible()
        page.wait_for_load_state()  # a room is drawn before its scripts listen
    page.keyboard.press("]")
    expect(
        page.get_by_role("link", name="Stop 1,").and_(page.locator("[aria-current]"))
    ).to_be_visible()
    page.wait_for_load_state()
    page.keyboard.press("?")
    expect(page.get_by_role("heading", name="Keys")).to_be_visible()
    page.get_by_role("button", name="Close").click()
    page.keyboard.press("n")
    expect(page.get_by_label("Side notes")).to_be_focused()
    page.goto(f"{marsh}/question/")
    page.get_by_label("Name of the study").press("1")
    assert page.url.endswith("/question/")


def test_charts_read_out_the_exact_figures_by_keyboard(signed_in, marsh):
    page = signed_in
    page.goto(f"{marsh}/read/")
    delivery = page.get_by_role("figure", name="Frames delivered")
    delivery.get_by_role("link", name="A (to the fixed end) at stop 6").first.focus()
    expect(delivery).to_contain_text("A (to the fixed end) at stop 6, 480 m:")
    expect(delivery).to_contain_text("delivered")


def test_every_finding_of_the_demo_can_be_read_off_the_page(signed_in, marsh):
    page = signed_in
    page.goto(f"{marsh}/read/")
    links = page.locator("#links")
    for words in ("to the carried end", "to the fixed end, at R1", "judged by this"):
        expect(links).to_contain_text(words)
    expect(page.locator("#exchanges")).to_contain_text("Question and answer together reach")
    expect(page.locator("#receivers")).to_contain_text("R1")
    expect(page.locator("#conditions")).to_contain_text("laid flat")
    expect(
        page.get_by_role("heading", name="laid flat: the order of B and A turns")
    ).to_be_visible()
    expect(page.get_by_role("heading", name="12 frames came through a relay")).to_be_visible()
    page.get_by_text("Predicted and measured:").click()
    expect(page.get_by_role("figure", name="Predicted and measured").locator("svg")).to_be_visible()
    expect(page.locator("#walks")).to_contain_text("A changed by")
    expect(page.locator("#guidance")).to_contain_text("C against B")
    page.locator("select[name=link]").select_option("to the carried end")
    page.get_by_role("button", name="Show", exact=True).click()
    expect(page.locator("table .strip")).to_have_count(11)
    page.get_by_text("The edge itself, what places add, noise").click()
    for name in ("The edge itself", "What the place adds", "Noise"):
        expect(page.get_by_role("figure", name=name)).to_be_visible()


def test_a_chart_can_be_saved_as_a_picture(signed_in, marsh):
    page = signed_in
    page.goto(f"{marsh}/read/")
    with page.expect_download() as saved:
        page.get_by_role("button", name="SVG").click()
    assert saved.value.suggested_filename == "delivery.svg"
    text = saved.value.path().read_text()
    assert text.startswith("<svg")
    assert "stroke" in text


def test_a_phone_shows_each_page_without_sliding_sideways(signed_in, marsh, live_server):
    page = signed_in
    page.set_viewport_size({"width": 390, "height": 844})
    pages = [f"{marsh}/{room}/" for room in ROOMS] + [f"{marsh}/shelf/{name}/" for name in SHELVES]
    pages += [f"{marsh}/plan/{name}/" for name in PLANS]
    pages.append(f"{marsh}/walk/counts/?stop=4")
    pages.append(f"{live_server.url}{Module.objects.get(name='Dulse L8').get_absolute_url()}")
    wide = {}
    for address in pages:
        page.goto(address)
        wide[address] = page.evaluate("document.documentElement.scrollWidth")
    assert {address: px for address, px in wide.items() if px > 390} == {}


def test_a_list_is_filtered_and_sorted_while_typing(signed_in, marsh):
    page = signed_in
    page.goto(f"{marsh}/shelf/parts/antennas/")
    page.get_by_label("Find").press_sequentially("whip")
    expect(page.get_by_text("3 of 7 shown.")).to_be_visible()
    page.wait_for_url("**q=whip**")
    page.get_by_role("link", name="gain").click()
    expect(page.get_by_role("columnheader", name="gain")).to_have_attribute(
        "aria-sort", "ascending"
    )
    expect(page.get_by_role("rowheader").first).to_contain_text("stub coil")
    assert "q=whip" in page.url


def test_a_what_if_changes_the_ladder_in_place(signed_in, marsh):
    page = signed_in
    page.goto(f"{marsh}/decide/?rig=A")
    box = page.get_by_label("Antenna, dB").first
    box.fill("5")
    box.press("Tab")
    expect(page.get_by_role("button", name="Keep as a new rig")).to_be_visible()
    expect(
        page.locator("#item-path, #item-carried_housing, #item-carried_carry").first
    ).to_be_visible()
    assert page.evaluate("document.activeElement.closest('#budget') !== null")  # focus stayed
    expect(page.locator("#said")).to_contain_text("in hand with what was changed")
    expect(page.get_by_role("heading", name="Budget at 740 m")).to_contain_text("what if")
    page.get_by_label("The receiver is limited by").select_option(label="Datasheet: −125.0 dBm")
    said = "link margin above −125.0 dBm: datasheet, 10 % PER: 10 % lost at −123.5 dBm"
    expect(page.get_by_text(said).first).to_be_visible()
    page.get_by_role("button", name="Keep as a new rig").click()
    expect(page.get_by_text("Kept as rig D.")).to_be_visible()


def test_without_scripts_the_answer_and_the_table_are_there(browser, signed_in, marsh):
    context = browser.new_context(
        java_script_enabled=False, storage_state=signed_in.context.storage_state()
    )
    page = context.new_page()
    page.goto(f"{marsh}/read/")
    expect(page.locator("#answer")).to_contain_text("reaches")
    expect(page.get_by_role("figure", name="Frames delivered").locator("svg")).to_be_visible()
    visits = Visit.objects.filter(walk__study=int(marsh.rsplit("/", 1)[1])).count()
    assert page.locator("table .strip").count() == visits > 50
    context.close()


def test_when_the_server_is_gone_a_banner_says_so(signed_in, marsh, problems):
    page = signed_in
    page.goto(f"{marsh}/walk/")
    page.route("**/walk/**", lambda route: route.abort())
    page.evaluate("htmx.ajax('GET', location.href, '#walk-files').catch(() => null)")
    expect(page.get_by_role("alert").filter(has_text="did not go through")).to_be_visible()
    assert problems  # Chromium and htmx log the refused connection
    problems.clear()


def test_a_workbench_question_is_answered_while_somebody_types(clean_page, live_server):
    page = clean_page  # nobody signed in
    page.goto(f"{live_server.url}/workbench/")
    page.get_by_label("Path-loss exponent n").fill("2")
    page.get_by_label("Range wanted, times").fill("2")
    expect(page.locator("#brings-answers")).to_contain_text("takes +6.0 dB")
    page.get_by_label("Path-loss exponent n").fill("0")
    expect(page.locator("#brings-answers")).to_contain_text("must be from 1 to 8")
    page.get_by_label("Power", exact=True).first.fill("lots")
    expect(page.locator("#power-answers .wrong")).to_be_visible()
