"""A report: one text for page, PDF, Markdown and CSV; set in the background, fetched from nowhere."""

import csv
import io
import re
import subprocess

import pytest
from django.urls import reverse

from inchmark.decide.figures.report.document import Table
from inchmark.decide.models import Report
from inchmark.decide.services.decisions import take_decision
from inchmark.decide.services.pdf import pdf_of
from inchmark.decide.services.report import make_report, queue_report
from inchmark.plan.models import SiteWall
from inchmark.plan.services.walls import save_wall
from inchmark.studies.services import change_study
from tests import make

pytestmark = pytest.mark.django_db


def get(client, study, name):
    return client.get(reverse(f"decide:{name}", args=[study.pk]))


@pytest.fixture
def pdf(walked):
    take_decision(
        walked, make.owner(walked), letter="B", chosen="B as walked", reasons="One.\nTwo.\nThree.\nFour.",
        name="A. Person",
    )  # fmt: skip
    queue_report(walked)
    make_report(walked.pk)
    return bytes(Report.objects.get(study=walked).pdf)


def said(pdf, tmp_path, command, *options):
    path = tmp_path / "report.pdf"
    path.write_bytes(pdf)
    return subprocess.run(
        [command, *options, str(path), *(["-"] if command == "pdftotext" else [])],
        capture_output=True, text=True, check=True,
    ).stdout  # fmt: skip


def test_page_one_answers_and_names_three_reasons(pdf, tmp_path):
    first = said(pdf, tmp_path, "pdftotext", "-l", "1")
    assert "Decided: B as walked" in first
    assert "Three." in first
    assert "Four." not in first
    assert "frames sent at 4 stops (n)" in first


def test_the_pdf_is_tagged_with_its_fonts_in_it_and_its_pages_numbered(pdf, tmp_path):
    about = said(pdf, tmp_path, "pdfinfo")
    assert re.search(r"Tagged:\s+yes", about)
    assert re.search(r"Page size:\s+595", about)  # A4
    fonts = said(pdf, tmp_path, "pdffonts").splitlines()[2:]
    assert fonts
    assert all("Hyperlegible" in one and " yes yes " in one for one in fonts)
    pages = Report.objects.get().pages
    assert f"{pages} of {pages}" in said(pdf, tmp_path, "pdftotext")


def test_every_head_of_a_figure_has_its_unit_or_count(reader, walked):
    rows = list(csv.reader(io.StringIO(get(reader, walked, "report-csv").content.decode())))
    heads = next(row for row in rows if row[:1] == ["Stop by stop"])
    assert {"sent (n)", "lost, %", "level, dBm", "in hand, dB", "noise, dBm"} <= set(heads)
    first = rows[rows.index(heads) + 1]
    assert re.fullmatch(r"−?[\d.]+ \(−?[\d.]+ to −?[\d.]+\)", first[heads.index("level, dBm")])


def test_markdown_and_page_say_the_same_and_typed_text_is_no_markup(reader, walked):
    change_study(walked, title="A <b>*bold*</b> | study")
    text = get(reader, walked, "report-md").content.decode()
    assert r"# A \<b>\*bold\*\</b> | study" in text
    html = get(reader, walked, "report").content.decode()
    for heading in re.findall(r"^## (.+)$", text, re.MULTILINE):
        assert heading in html
    assert "A &lt;b&gt;" in html


def test_walls_stand_with_what_a_crossing_is_said_to_cost_and_are_left_out_without_any(
    reader, walked
):
    assert "## Walls" not in get(reader, walked, "report-md").content.decode()
    line = [[47.4, -20.9], [47.6, -20.9]]
    save_wall(walked, SiteWall(name="east", kind="brick", thickness_m=0.24, points=line))
    text = get(reader, walked, "report-md").content.decode()
    row = text.split("## Walls")[1].split("| east |")[1].splitlines()[0]
    assert row.startswith(" 24 cm brick | 22.2 km | 5.6 |")
    assert "ITU-R P.2040-3" in row


def test_the_page_follows_the_pdf_being_set(reader, walked):
    sent = reader.post(reverse("decide:report-make", args=[walked.pk]))
    assert sent.status_code == 302
    assert "The PDF is being set: 0 %" in make.html(get(reader, walked, "report"))
    assert get(reader, walked, "report-pdf").status_code == 404
    make_report(walked.pk)
    html = make.html(get(reader, walked, "report"))
    assert re.search(r"PDF, \d+ pages", html)
    assert get(reader, walked, "report-pdf").content.startswith(b"%PDF")
    change_study(walked, question="Another?")
    assert "of an earlier revision" in make.html(get(reader, walked, "report"))


def test_without_a_reading_there_is_no_report_and_it_is_said(owner_client, study):
    assert "It takes a" in make.html(get(owner_client, study, "report"))
    for name in ("report-md", "report-csv", "report-pdf"):
        assert get(owner_client, study, name).status_code == 404
    page = owner_client.post(reverse("decide:report-make", args=[study.pk]), follow=True)
    assert "Nothing has been read yet" in make.html(page)


def test_a_report_fetches_nothing(tmp_path):
    secret = tmp_path / "secret.png"
    secret.write_bytes(b"\x89PNG")
    pdf, pages = pdf_of(
        f'<html lang="en"><title>x</title><p>x<img alt="" src="file://{secret}"></p></html>'
    )
    assert pages == 1
    assert b"/Image" not in pdf


def test_columns_are_as_wide_as_what_is_written():
    table = Table(caption="", heads=("a", "b"), rows=(("x", "a long sentence about something"),))
    narrow, wide = table.widths
    assert wide > 3 * narrow
    assert sum(table.widths) == pytest.approx(100, abs=0.1)


def test_strangers_get_no_report(client, walked):
    client.force_login(make.user())
    for name in ("report", "report-md", "report-csv", "report-pdf"):
        assert get(client, walked, name).status_code == 404


def test_no_spreadsheet_runs_what_people_typed(reader, walked):
    walked.rigs.filter(letter="A").update(antenna="=1+1")
    text = get(reader, walked, "report-csv").content.decode()
    cells = [cell for row in csv.reader(io.StringIO(text)) for cell in row]
    assert any(cell.startswith("'=1+1") for cell in cells)
    assert not any(cell.startswith("=") for cell in cells)
