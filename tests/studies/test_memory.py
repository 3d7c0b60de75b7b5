"""What is kept under a revision, and what is not."""

from django.urls import reverse

from inchmark.read.services import make_reading
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.shelf.services.rigs import save_rig
from inchmark.studies import memory
from inchmark.studies.models import Study
from inchmark.studies.tape.marks import stamp_of
from tests import make


def made(study, *more):
    calls = []
    memory.per_revision(study, "x", lambda: calls.append(1), *more)
    return len(calls)


def test_a_value_is_made_once_for_a_revision_and_what_else_it_depends_on(study):
    assert [made(study), made(study), made(study, "B"), made(study, "B")] == [1, 0, 1, 0]
    study.revision += 1
    assert made(study) == 1


def test_the_least_used_go_first(study, monkeypatch):
    monkeypatch.setattr(memory, "MOST", 3)
    for more in "abc":
        made(study, more)
    made(study, "a")
    made(study, "d")
    assert [made(study, more) for more in "acd"] == [0, 0, 0]
    assert made(study, "b") == 1


def test_a_changed_rig_is_seen_at_once_in_every_list(study):
    assert "renamed since" not in {rig.antenna for rig in rigs_of(study)}
    rig = study.rigs.get()
    rig.antenna = "renamed since"
    save_rig(study, rig)
    assert [one.antenna for one in rigs_of(Study.objects.get(pk=study.pk))] == ["renamed since"]


def test_the_tape_follows_a_new_reading(owner_client, walked):
    before = stamp_of(walked)
    make_reading(walked.pk)
    assert stamp_of(walked) != before


def test_every_room_shows_a_rename_at_once(reader, walked):
    pages = ["shelf:rigs", "plan:stops", "read:reading", "decide:decide"]
    for name in pages:
        reader.get(reverse(name, args=[walked.pk]))
    rig = walked.rigs.get(letter="A")
    rig.antenna = "heron on the dyke"
    save_rig(walked, rig)
    for name in pages:
        assert "heron on the dyke" in make.html(reader.get(reverse(name, args=[walked.pk]))), name
