"""Decisions keep their evidence, are superseded and never edited, and are told what later data say."""

import pytest
from django.db import DatabaseError, transaction
from django.urls import reverse

from inchmark.decide.figures.evidence import Evidence
from inchmark.decide.models import Decision
from inchmark.decide.services.decisions import said_against, standing, take_decision
from inchmark.read.services import make_reading
from inchmark.shelf.services.rigs import save_rig
from inchmark.studies.services import change_study
from tests import make

pytestmark = pytest.mark.django_db
SAID = {"letter": "B", "chosen": "B as walked", "reasons": "It reaches.", "name": "A. Person"}


@pytest.fixture
def decided(walked):
    return take_decision(walked, make.owner(walked), **SAID)


def page(client, study):
    return make.html(client.get(reverse("decide:decision", args=[study.pk])))


def test_the_form_begins_with_what_the_reading_says(reader, walked):
    html = page(reader, walked)
    assert "Nothing decided yet" in html
    assert "reaches" in html
    assert "under the rule." in html


def test_a_decision_is_taken_on_the_page_with_its_evidence(reader, walked):
    reader.post(reverse("decide:decision", args=[walked.pk]), SAID)
    html = page(reader, walked)
    assert "Decided: B as walked" in html
    evidence = Evidence(data=standing(walked).evidence)
    assert evidence.reading.rigs == make.reading(walked).rigs
    assert [one["sha256"] for one in evidence.inputs] == [
        one.sha256 for one in walked.walks.get().files.all()
    ]
    assert evidence.inputs[0]["sha256"][:16] in html
    assert walked.changes.latest("pk").what == "decide:decision"


def test_a_decision_without_reasons_is_refused(reader, walked):
    sent = reader.post(reverse("decide:decision", args=[walked.pk]), SAID | {"reasons": " "})
    assert sent.status_code == 422
    assert not walked.decisions.exists()


def test_the_database_lets_nobody_edit_a_decision(decided):
    with pytest.raises(DatabaseError, match="superseded, never edited"), transaction.atomic():
        Decision.objects.filter(pk=decided.pk).update(reasons="Another.")
    decided.reasons = "Another."
    with pytest.raises(DatabaseError, match="superseded, never edited"), transaction.atomic():
        decided.save()


def test_a_later_one_supersedes_it_and_both_stand(reader, walked, decided):
    later = take_decision(walked, make.owner(walked), **(SAID | {"chosen": "A after all"}))
    assert (later.number, later.supersedes) == (2, decided)
    html = page(reader, walked)
    assert "in place of decision 1" in html
    assert "B as walked" in html.split("Superseded")[1]


def test_nothing_is_decided_on_a_reading_that_is_behind(reader, walked):
    change_study(walked, needed_m=500.0)
    sent = reader.post(reverse("decide:decision", args=[walked.pk]), SAID)
    assert sent.status_code == 422
    assert "being read anew" in page(reader, walked) or "being read anew" in make.html(sent)
    assert not walked.decisions.exists()


def test_later_data_that_contradict_it_raise_a_note(reader, walked, decided):
    assert said_against(walked, decided) == []
    rows = [
        f"B,{stop},{i},{int(stop == 1 or i % 3 > 0)},-112"
        for stop in (1, 2, 3, 4)
        for i in range(120)
    ]
    make.log(make.walk(walked), make.LOG_HEADER + "\n".join(rows).replace("0,-112", "0,") + "\n")
    make_reading(walked.pk)
    walked.refresh_from_db()
    found = said_against(walked, decided)
    assert found
    assert found[0].startswith(("B reaches", "The walk no longer", "A has more"))
    budget = make.html(reader.get(reverse("decide:decide", args=[walked.pk])))
    assert "Decision 1 no longer agrees with the data" in budget
    assert "Later data speak against it." in page(reader, walked)


def test_a_rig_changed_since_is_said(walked, decided):
    rig = walked.rigs.get(letter="B")
    rig.power_dbm = 3.0
    save_rig(walked, rig)
    walked.refresh_from_db()
    assert "Rig B has been changed since." in said_against(walked, decided)


def test_strangers_and_viewers_take_no_decision(client, walked):
    client.force_login(make.user())
    address = reverse("decide:decision", args=[walked.pk])
    assert client.post(address, SAID).status_code == 404
    client.force_login(make.member(walked))
    assert client.post(address, SAID).status_code in (403, 404)
    assert not walked.decisions.exists()
