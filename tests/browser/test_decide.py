"""From gates to a handed-over decision: places, mends, options, decision, report, bundle, elsewhere."""

import re
import subprocess

import pytest
from playwright.sync_api import expect

from inchmark.read.services import make_reading
from inchmark.studies.models import Study
from tests import make
from tests.browser.conftest import serious_axe_findings

pytestmark = pytest.mark.django_db(transaction=True)


def served(page):
    words = page.locator("#answer").inner_text()
    return [int(one) for one in re.findall(r"(\d+) of 14", words)]


def test_from_the_gates_to_a_bundle_that_says_the_same_elsewhere(
    demo, browser, live_server, signed_in, worker, tmp_path
):
    page, marsh = signed_in, demo
    at = f"{live_server.url}/studies/{marsh.pk}"
    found = {}

    # which gates C serves, and what mends the two weakest
    page.goto(f"{at}/decide/")
    page.get_by_role("link", name="What would mend the weak ones").click()
    page.get_by_label("Rig").select_option("C")
    expect(page.locator("#answer")).to_contain_text("C serves")
    (before,) = served(page)
    weakest = [
        row.inner_text().split()[0] for row in page.locator(".places-table tbody th").all()[:2]
    ]
    found["places"] = serious_axe_findings(page)
    page.get_by_role("link", name=re.compile("^mast of the fixed end")).click()
    expect(page.locator("#answer")).to_contain_text("as tried")
    masted = served(page)[1]
    page.get_by_role("link", name=re.compile(r"^4\d\.\d+, .2\d\.\d+$")).first.click()
    expect(page.locator("#answer")).to_contain_text("as tried")
    both = served(page)[1]
    assert both >= max(before, masted)
    for gate in weakest:
        row = page.get_by_role("row", name=re.compile(f"^{gate} "))
        expect(row.locator("[class^=verdict]")).to_have_class("verdict-holds")
    receiver = page.get_by_role("textbox", name="Receiver 1").input_value()

    # the receiver is dragged on the map and everything follows
    expect(page.locator(".map-band").first).to_be_attached()
    mark = page.locator(".map-receiver")
    box = mark.bounding_box()
    page.mouse.move(box["x"] + 10, box["y"] + 10)
    page.mouse.down()
    page.mouse.move(box["x"] - 60, box["y"] + 90, steps=6)
    page.mouse.up()
    expect(page.get_by_role("textbox", name="Receiver 1")).not_to_have_value(receiver)

    # options, filtered
    page.get_by_role("navigation", name="Decide").get_by_role("link", name="Options").click()
    every = page.locator("h1").inner_text()
    page.get_by_label("at least battery, years").fill("20")
    page.get_by_label("at least battery, years").blur()
    expect(page.locator("h1")).not_to_have_text(every)
    found["options"] = serious_axe_findings(page)

    # the decision
    page.get_by_role("navigation", name="Decide").get_by_role("link", name="Decision").click()
    page.get_by_label("Rig it rests on").select_option("C")
    page.get_by_label("Chosen").fill("C with a mast of 15 m and a second receiver")
    page.get_by_role("button", name="Decide", exact=True).click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Decided: C with a mast")
    found["decision"] = serious_axe_findings(page)

    # the report as PDF
    page.get_by_role("link", name="The report").click()
    page.get_by_role("button", name="Set as PDF").click()
    link = page.get_by_role("link", name=re.compile(r"^PDF, \d+ pages"))
    expect(link).to_be_visible(timeout=60_000)
    found["report"] = serious_axe_findings(page)
    with page.expect_download() as saved:
        link.click()
    pdf = tmp_path / "report.pdf"
    saved.value.save_as(pdf)
    subprocess.run(["pdftoppm", "-r", "40", "-png", pdf, tmp_path / "page"], check=True)
    assert len(list(tmp_path.glob("page*.png"))) > 4
    text = subprocess.run(
        ["pdftotext", pdf, "-"], capture_output=True, text=True, check=True
    ).stdout
    assert "Decided: C with a mast of 15 m" in text

    # the bundle, into an account that has nothing
    with page.expect_download() as saved:
        page.get_by_role("link", name="The whole study as a bundle").click()
    bundle = tmp_path / "marsh.zip"
    saved.value.save_as(bundle)
    page.goto(f"{live_server.url}/")
    page.get_by_role("link", name="Or a bundle").click()
    page.get_by_label("Bundle (.zip)").set_input_files(bundle)
    page.get_by_role("button", name="Take it in").click()
    expect(page.get_by_text("is here; it is being read")).to_be_visible(timeout=60_000)
    away = Study.objects.latest("pk")
    make_reading(away.pk)
    assert make.reading(away).rigs == make.reading(marsh).rigs
    assert make.reading(away).served == make.reading(marsh).served
    assert away.decisions.get().chosen == marsh.decisions.get().chosen
    assert {where: what for where, what in found.items() if what} == {}
