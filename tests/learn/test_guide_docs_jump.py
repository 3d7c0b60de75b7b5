"""The guided reading, the docs as pages, and jump: what a newcomer and a daily user lean on."""

import re

import pytest
from django.conf import settings
from django.urls import reverse

from inchmark.learn.figures.docs import DOCS, doc_of, every_section, passages
from inchmark.learn.figures.guide import STEPS
from inchmark.studies.models import Study
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def demo(reader, walked):
    """The walked study, taken for the demo."""
    Study.objects.filter(pk=walked.pk).update(kind=Study.DEMO)
    return walked


def test_the_guide_goes_through_its_steps_is_left_and_taken_up_again(reader, demo):
    seen = []
    url = reader.get(reverse("guide")).url
    for number in range(1, len(STEPS) + 1):
        html = make.html(reader.get(url))
        assert f"{number} of {len(STEPS)}" in html
        assert STEPS[number - 1].title in html
        seen.append(url)
        if number == 4:  # somewhere else meanwhile; the guide keeps its place
            assert "guide-tools" not in make.html(reader.get(reverse("people:account")))
            assert reader.get(reverse("guide")).url == url
        if number < len(STEPS):
            url = reader.post(reverse("guide-step", args=[number + 1])).url
    assert len(set(seen)) >= 4
    reader.post(reverse("guide-end"))
    assert "guide-tools" not in make.html(reader.get(reverse("studies:list")))
    assert reader.get(reverse("guide")).url == seen[0]


def test_every_step_points_at_something_on_its_page(reader, demo):
    reader.get(reverse("guide"))
    for number, step in enumerate(STEPS, start=1):
        url = reader.post(reverse("guide-step", args=[number])).url
        html = make.html(reader.get(url))
        name = step.at.split()[-1].lstrip("#.")
        sign = {"#": f'id="{name}"', ".": f'class="{name}'}.get(step.at[0], f"<{name}")
        assert sign in html, step.title


def test_without_the_demo_the_guide_says_so(owner_client):
    response = owner_client.get(reverse("guide"), follow=True)
    assert "The demo study is not here" in make.html(response)
    assert owner_client.post(reverse("guide-step", args=[3])).url == reverse("guide")


def test_every_page_of_the_docs_stands_in_the_app_with_anchors_for_its_sections(owner_client):
    for name in DOCS:
        page = make.html(owner_client.get(reverse("help-page", args=[name])))
        found = doc_of(name)
        assert found.sections
        for section in found.sections:
            assert f'id="{section.anchor}"' in page
        assert "<script>" not in str(found.html)
    assert owner_client.get(reverse("help-page", args=["nothing"])).status_code == 404


def test_links_between_the_docs_lead_to_pages_of_the_app():
    for name in DOCS:
        for href in re.findall(r'href="([^"]+)"', str(doc_of(name).html)):
            assert not href.endswith(".md"), (name, href)


def test_search_finds_words_wherever_they_stand_titles_first(owner_client):
    found = passages("threshold")
    assert len({one.section.doc for one in found}) > 1
    assert all("threshold" in f"{p.section.title} {p.section.text}".lower() for p in found)
    titles = ["threshold" in one.section.title.lower() for one in found]
    assert titles == sorted(titles, reverse=True)
    assert passages("zzz") == passages("  ") == []
    page = make.html(owner_client.get(reverse("help"), {"q": "zzz <b>"}))
    assert "0 passages with “zzz &lt;b&gt;”" in page


def test_each_section_is_of_a_file_that_ships():
    for section in every_section():
        assert (settings.ROOT / "docs" / f"{section.doc}.md").exists()


@pytest.mark.parametrize(
    ("asked", "kind", "words"),
    [
        ("stub", "rig", "A Dulse L8"),
        ("2", "stop", "stop 2"),
        ("walk 1", "walk", "walk 1"),
        ("log.csv", "log", "log.csv"),
        ("options", "page", "Decide: options"),
        ("same stops", "note", "All rigs stood at the same stops"),
        ("glossary", "page", None),
        ("why not averages", "help", "Why not averages"),
    ],
)
def test_a_few_letters_lead_to_rigs_stops_walks_logs_pages_and_help(
    reader, walked, asked, kind, words
):
    part = make.html(
        reader.get(
            reverse("jump"), {"q": asked, "study": walked.pk}, headers={"HX-Request": "true"}
        )
    )
    if words is None:
        assert "Nothing of that name" in part or "glossary" in part.lower()
        return
    assert f'<span class="soft">{kind}</span>' in part
    assert words in part
    for href in re.findall(r'href="([^"#]+)', part):
        assert reader.get(href).status_code == 200


def test_jump_shows_nothing_of_other_peoples_studies(client, walked):
    client.force_login(make.user())
    part = make.html(client.get(reverse("jump"), {"q": "stub", "study": walked.pk}))
    assert "Dulse L8" not in part
    assert client.get(reverse("jump"), {"q": "x", "study": "9" * 40}).status_code == 200


def test_every_note_has_its_reason_and_an_example_and_the_margin_leads_there(reader, walked):
    found = set()
    notes = settings.ROOT / "src" / "inchmark" / "core" / "reading" / "notes"
    decide = settings.ROOT / "src" / "inchmark" / "decide"
    files = [
        *notes.glob("*.py"),
        decide / "figures" / "notes.py",
        decide / "services" / "decisions.py",
    ]
    made = r'(?:code=|\.note\(\s*|counted\(\s*analysis,\s*|_never\(\s*)"([a-z_-]+)"'
    for file in files:
        found |= set(re.findall(made, file.read_text()))
    assert len(found) > 40
    sections = {one.anchor: one.text for one in doc_of("notes").sections}
    for code in found:
        assert "Example." in sections[code.replace("_", "-")], code
    html = make.html(reader.get(reverse("read:reading", args=[walked.pk])))
    anchors = set(re.findall(r'/help/notes/#([\w-]+)"', html))
    assert anchors
    assert anchors <= sections.keys()


def test_the_answer_opens_on_its_formulas_with_this_studys_numbers(reader, walked):
    html = make.html(reader.get(reverse("read:reading", args=[walked.pk])))
    known = html.split('class="known"')[1].split("</details>")[0]
    assert "320 frames sent" in known
    assert "In hand of A at 300 m" in known
    level, threshold, in_hand = (
        float(one.replace("\N{MINUS SIGN}", "-"))
        for one in re.search(
            r"In hand of A at 300 m.*?<br>(\S+) dBm \N{MINUS SIGN} \((\S+) dBm\) = (\S+) \(", known
        ).groups()
    )
    assert level - threshold == pytest.approx(in_hand, abs=0.3)
    for anchor in set(re.findall(r"/help/method/#([\w-]+)", known)):
        assert anchor in {one.anchor for one in doc_of("method").sections}
