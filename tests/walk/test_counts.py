"""Counts of the run sheet, typed in by hand."""

import pytest
from django.urls import reverse

from inchmark.core.reception.bursts import autocorrelation_time, loss_runs
from inchmark.core.reception.visit import HandCount as Count
from inchmark.core.reception.visit import counted_visit
from inchmark.plan.figures.clock import visits_of
from inchmark.plan.services.design import design_of, save_design, shuffle
from inchmark.read.services import make_reading
from inchmark.walk.models import HandCount, Visit
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def walk(study):
    """A walk of two rigs, nothing logged."""
    make.rig(study, "B")
    return make.walk(study)


def typed(walk, *rows):
    """Return the form's fields for rows of (sent, heard, rssi, note), in the sheet's order."""
    found = {}
    for (rig, number), row in zip(visits(walk), rows, strict=False):
        names = ("sent", "heard", "rssi_dbm", "note")
        found |= {f"{rig}-{number}-{name}": text for name, text in zip(names, row, strict=True)}
    return found


def keep(client, walk, *rows, stop="1", **asked):
    page = reverse("walk:counts", args=[walk.study_id, walk.pk], query={"stop": stop} | asked)
    return client.post(page, typed(walk, *rows), follow=True)


def visits(walk):
    """Return rig and pass at stop 1 in the run sheet's order."""
    one = design_of(walk.study)
    planned = visits_of(one, list(walk.study.rigs.all()), list(walk.study.stops.all()))
    return [(visit.rig, visit.pass_number) for visit in planned if visit.stop == "1"]


def order(walk):
    """Return the rigs at stop 1 in the run sheet's order."""
    return [rig for rig, _ in visits(walk)]


def test_counts_become_a_visit_and_lead_to_the_next_stop(owner_client, walk):
    html = keep(owner_client, walk, ("60", "41", "-103", "reeds"), ("60", "0", "", ""))
    assert "2 counts of stop 1 kept" in make.html(html)
    assert "Stop 2" in make.html(html)
    first, second = order(walk)
    one = Visit.objects.get(rig__letter=first)
    assert (one.sent, one.heard, one.summary["rssi_mean_dbm"]) == (60, 41, -103)
    assert one.summary["heard_with_level"] == 1  # one reading written down, whatever was heard
    assert Visit.objects.get(rig__letter=second).heard == 0
    make_reading(walk.study_id)
    html = make.html(owner_client.get(reverse("read:reading", args=[walk.study_id])))
    assert "19 of 60" in html or "41 of 60" in html


def test_a_corrected_count_leaves_the_first_in_the_logbook_and_an_emptied_one_goes(
    owner_client, walk
):
    keep(owner_client, walk, ("60", "41", "", ""), ("", "", "", ""))
    keep(owner_client, walk, ("60", "44", "", ""), ("", "", "", ""))
    assert list(HandCount.objects.values_list("heard", flat=True)) == [41, 44]
    assert Visit.objects.get().heard == 44
    keep(owner_client, walk, ("60", "44", "", ""), ("", "", "", ""))
    assert HandCount.objects.count() == 2  # nothing changed, nothing added
    keep(owner_client, walk, ("", "", "", ""), ("", "", "", ""))
    assert not Visit.objects.exists()
    assert HandCount.objects.count() == 3


def test_a_counted_visit_shows_who_wrote_what_and_is_not_silent(owner_client, walk):
    keep(owner_client, walk, ("60", "41", "-103", "reeds"), ("", "", "", ""))
    keep(owner_client, walk, ("60", "44", "-103", "reeds"), ("", "", "", ""))
    visit = Visit.objects.get()
    html = make.html(owner_client.get(reverse("read:visit", args=[walk.study_id, visit.pk])))
    assert "Counted by hand" in html
    assert html.count("reeds") == 2
    silent = {"silent-rig": visit.rig_id, "silent-stop": visit.stop_id, "silent-sent": "30"}
    page = reverse("walk:silent-visit", args=[walk.study_id, walk.pk])
    response = owner_client.post(page, silent)
    assert "was counted by hand at stop 1" in make.html(response)
    visit.refresh_from_db()
    assert visit.heard == 44


def test_a_plan_redrawn_meanwhile_mixes_no_rigs_up_and_takes_nothing_back(owner_client, walk):
    keep(owner_client, walk, ("60", "41", "", ""), ("60", "7", "", ""))
    before = {v.rig.letter: v.heard for v in Visit.objects.select_related("rig")}
    page = reverse("walk:counts", args=[walk.study_id, walk.pk], query={"stop": "1"})
    sent = typed(walk, ("60", "42", "", ""))  # the page held the first rig alone
    first, one = order(walk)[0], design_of(walk.study)
    while order(walk)[0] == first:
        one = shuffle(one)
    owner_client.post(page, sent)
    after = {v.rig.letter: v.heard for v in Visit.objects.select_related("rig")}
    assert after == before | {first: 42}


def test_passes_add_up_and_ways_of_carrying_stay_apart(owner_client, walk):
    one = design_of(walk.study)
    one.passes = 2
    save_design(walk.study, one)
    rows = [("60", "50", "", "")] * 4
    keep(owner_client, walk, *rows)
    assert {(v.sent, v.heard) for v in Visit.objects.all()} == {(120, 100)}
    keep(owner_client, walk, ("30", "3", "", ""), *[("", "", "", "")] * 3, carried="in a pocket")
    assert Visit.objects.get(condition="in a pocket").sent == 30


@pytest.mark.parametrize(
    ("row", "words"),
    [
        (("60", "61", "", ""), "More frames heard than sent"),
        (("60", "", "", ""), "Write both"),
        (("", "", "-100", ""), "without counts"),
        (("many", "3", "", ""), "Enter a whole number"),
        (("0", "0", "", ""), "greater than or equal to 1"),
        (("60", "3", "900", ""), "less than or equal to 60"),
    ],
)
def test_a_wrong_count_keeps_nothing_and_says_why(owner_client, walk, row, words):
    response = keep(owner_client, walk, row, ("60", "60", "", ""))
    assert response.status_code == 422
    assert words in make.html(response)
    assert not HandCount.objects.exists()


def test_a_rig_with_a_log_is_not_counted_twice(owner_client, study):
    make.rig(study, "B")
    walk = make.walk(study)
    make.log(walk, make.frames_log())
    html = make.html(owner_client.get(reverse("walk:counts", args=[study.pk, walk.pk])))
    assert "from a log" in html
    rows = [("60", "10", "", "") if rig == "A" else ("", "", "", "") for rig in order(walk)]
    html = make.html(keep(owner_client, walk, *rows))
    assert "would count twice" in html
    assert not HandCount.objects.exists()


def test_the_code_of_a_run_sheet_leads_to_the_stop(owner_client, study):
    page = reverse("walk:counts-latest", args=[study.pk], query={"stop": "2"})
    html = make.html(owner_client.get(page, follow=True))
    assert "Start the walk first" in html
    make.walk(study)
    assert "Stop 2" in owner_client.get(page, follow=True).content.decode()
    sheet = make.html(owner_client.get(reverse("plan:run-sheet", args=[study.pk])))
    assert "QR code leading to the counts of stop 2" in sheet


def test_strangers_see_no_counts_and_viewers_keep_none(client, walk):
    page = reverse("walk:counts", args=[walk.study_id, walk.pk])
    client.force_login(make.user())
    assert client.get(page).status_code == 404
    client.force_login(make.member(walk.study))
    assert client.get(page).status_code == 200
    assert client.post(page, typed(walk, ("60", "3", "", ""))).status_code == 404


def test_counts_tell_nothing_of_runs():
    runs = loss_runs([0, 0, 1, 1, 1, 0, 0, 0, 1, 1] * 6)
    counted = counted_visit([Count(sent=60, heard=20), Count(sent=60, heard=59)])
    assert (counted.sent, counted.heard, counted.passes) == (120, 79, 2)
    assert autocorrelation_time([runs, counted.runs]) == autocorrelation_time([runs])
    with pytest.raises(ValueError, match="from 0 to sent"):
        Count(sent=3, heard=4)


def test_frames_sent_are_said_once_for_the_walk(owner_client, walk):
    walk.frames_per_visit = 60
    walk.save()
    keep(owner_client, walk, ("", "47", "", ""), ("", "", "", ""))
    assert [(one.sent, one.heard) for one in HandCount.objects.all()] == [(60, 47)]
    keep(owner_client, walk, ("50", "47", "", ""), ("", "", "", ""))
    assert HandCount.objects.last().sent == 50
    page = reverse("walk:counts", args=[walk.study_id, walk.pk])
    assert "60 went out, as the walk says" in make.html(owner_client.get(page))
