"""Reading in the browser's requests: the answer, the table, the way down to a frame, exports."""

import csv
import io
import json

import pytest
from django.urls import reverse

from inchmark.core.reading.analysis import MODEL_VERSION
from inchmark.formats.frame_log.columns import COLUMNS
from inchmark.plan.models import Site, SitePoint
from inchmark.plan.services import place_fixed_end, save_stop
from inchmark.plan.services.points import save_point
from inchmark.read.figures import frame_rows
from inchmark.read.models import StudyReading
from inchmark.read.services import KEPT_READINGS, make_reading, queue_reading
from inchmark.studies.services import change_study
from inchmark.walk.drawings.strip import WIDTH, strip_of
from inchmark.walk.models import Frame, FrameFile
from tests import make
from tests.conftest import LEVELS

pytestmark = pytest.mark.django_db


def page(client, name, study, **query):
    return client.get(reverse(name, args=[study.pk]), query).content.decode()


def test_the_page_opens_with_the_answer_then_evidence_then_facts(reader, walked):
    html = page(reader, "read:reading", walked)
    order = [html.index(mark) for mark in ('id="answer"', 'data-chart="delivery"', 'id="table"')]
    assert order == sorted(order)
    assert "as far as A" in html or "told apart" in html
    assert "At the needed 300 m" in html
    assert "Range here = farthest distance" in html


def test_each_visit_stands_in_the_table_with_its_strip_and_a_way_to_its_frames(reader, walked):
    html = page(reader, "read:reading", walked)
    assert html.count('class="strip ') == 8
    for visit in walked.walks.get().visits.all():
        assert reverse("read:visit", args=[walked.pk, visit.pk]) in html


def test_any_figure_is_two_clicks_from_its_frames(reader, walked):
    visit = walked.walks.get().visits.get(rig__letter="A", stop__label="4")
    html = make.html(reader.get(reverse("read:visit", args=[walked.pk, visit.pk])))
    assert f"{visit.heard} of {visit.sent} heard" in html
    assert "log.csv" in html
    assert "line 122" in html


def test_the_table_narrows_to_a_stop_or_a_rig(reader, walked):
    assert page(reader, "read:reading", walked, stop="2").count('class="strip ') == 2
    assert page(reader, "read:reading", walked, rig="B").count('class="strip ') == 4
    assert page(reader, "read:reading", walked, stop="nowhere").count('class="strip ') == 0


def test_the_page_reads_summaries_only_and_costs_a_fixed_number_of_queries(
    reader, walked, django_assert_max_num_queries
):
    with django_assert_max_num_queries(17) as seen:
        page(reader, "read:reading", walked)
    with django_assert_max_num_queries(8):
        page(reader, "read:reading", walked)  # the rest is kept for the revision
    assert not any("walk_frame" in q["sql"] and "walk_framefile" not in q["sql"] for q in seen)


def test_an_empty_study_says_what_to_do_next(client):
    study = make.study()
    client.force_login(make.owner(study))
    html = page(client, "read:reading", study)
    assert "Nothing has been walked yet" in html
    assert "hx-trigger" not in html.split("</main>")[0]
    assert reverse("walk:walks", args=[study.pk]) in html


def test_a_log_that_waits_for_its_reading_says_so_and_looks_again(owner_client, study):
    make.log(make.walk(study), make.frames_log())
    html = page(owner_client, "read:reading", study)
    assert "The log is being read" in html
    assert "hx-trigger" in html


def test_a_change_makes_the_reading_stale_until_it_is_read_again(reader, walked):
    change_study(walked, needed_m=900.0)
    html = page(reader, "read:reading", walked)
    assert "this is being read again" in html
    assert "hx-trigger" in html
    make_reading(walked.pk)
    html = page(reader, "read:reading", walked)
    assert "this is being read again" not in html
    assert "At the needed 900 m" in html


def test_a_stop_renamed_since_keeps_its_rows(reader, walked):
    stop = walked.stops.get(label="2")
    stop.label = "sluice"
    save_stop(walked, stop)
    html = page(reader, "read:reading", walked)
    assert html.count('class="strip ') == 8
    assert "<b>sluice</b>" in html


def test_a_reading_kept_in_another_shape_is_read_anew_not_guessed_at(reader, walked):
    from procrastinate.contrib.django.models import ProcrastinateJob

    walked.readings.update(data={"rigs": {"A": {"range_m": {}}}})
    html = page(reader, "read:reading", walked)
    assert "The log is being read" in html
    assert reader.get(reverse("decide:decide", args=[walked.pk])).status_code == 200
    jobs = ProcrastinateJob.objects.filter(task_name="inchmark.read.tasks.read_study")
    assert jobs.filter(status="todo").count() == 1
    make_reading(walked.pk)
    assert page(reader, "read:reading", walked).count('class="strip ') == 8


def test_a_stored_reading_names_what_it_rests_on(walked):
    reading = walked.readings.get()
    assert (reading.model_version, reading.code_version) == (MODEL_VERSION, "0.1.0")
    visits = walked.walks.get().visits.values_list("pk", flat=True)
    assert {one.ref for one in make.reading(walked).visits} == set(visits)
    assert reading.revision >= 1


def test_readings_do_not_pile_up(walked):
    StudyReading.objects.bulk_create(
        StudyReading(study=walked, revision=1, model_version="1", code_version="1", data={})
        for _ in range(KEPT_READINGS + 5)
    )
    make_reading(walked.pk)
    assert walked.readings.count() == KEPT_READINGS


def test_a_rig_told_what_its_readings_hold_is_read_that_way(study):
    rows = "\n".join(f"A,1,{i},-116,{-3 - i % 6},-117" for i in range(40))
    make.log(make.walk(study), "rig,stop,seq,rssi_dbm,snr_db,noise_dbm\n" + rows)
    visit = study.walks.get().visits.get()
    assert visit.summary["noise_in_rssi"] is True
    study.rigs.update(rssi_includes_noise=False)
    make_reading(study.pk)
    visit.refresh_from_db()
    assert visit.summary["level_mean_dbm"] == -116


def test_a_waiting_reading_is_not_queued_twice(walked):
    from procrastinate.contrib.django.models import ProcrastinateJob

    queue_reading(walked.pk)
    queue_reading(walked.pk)
    jobs = ProcrastinateJob.objects.filter(
        task_name="inchmark.read.tasks.read_study", status="todo"
    )
    assert jobs.count() == 1


def test_a_study_that_is_gone_is_no_error():
    assert make_reading(0) is None


def export(client, name, study):
    response = client.get(reverse(name, args=[study.pk]))
    content = response.streaming_content if response.streaming else [response.content]
    return b"".join(content).decode()


def test_what_is_exported_can_be_read_back_without_loss(reader, walked):
    walk = walked.walks.get()
    make.log(
        walk,
        "rig,stop,seq,time,rssi_dbm,snr_db,noise_dbm,condition,source,hops,lat,lon\n"
        'A,1,900,2026-11-14T09:00:00.123456Z,-90.125,-3.25,-117,"in, hand",n"7,2,47.51234567,-21\n',
    )
    text = export(reader, "read:export-frames", walked)
    copy = make.field_study(rigs="AB", stops=4)
    make.log(make.walk(copy), text)
    assert export_of(copy, reader) == text
    kept = [name for name in COLUMNS if hasattr(Frame, name)]
    columns = (
        *kept,
        "visit__condition",
        "visit__rig__letter",
        "visit__stop__label",
    )

    def rows(of):
        return sorted(Frame.objects.filter(visit__walk__study=of).values_list(*columns), key=str)

    assert rows(copy) == rows(walked)


def export_of(study, client):
    client.force_login(make.owner(study))
    return export(client, "read:export-frames", study)


def test_stops_visits_and_the_reading_are_exported(reader, walked):
    stops = list(csv.DictReader(io.StringIO(export(reader, "read:export-stops", walked))))
    assert [row["distance_m"] for row in stops] == ["50.0", "100.0", "200.0", "400.0"]
    visits = list(csv.DictReader(io.StringIO(export(reader, "read:export-visits", walked))))
    assert len(visits) == 8
    assert float(visits[0]["loss_low"]) <= float(visits[0]["loss"])
    data = json.loads(export(reader, "read:export-reading", walked))
    assert {"site", "rigs", "differences", "visits", "notes", "model_version"} <= set(data)


@pytest.mark.parametrize("name", ["read:export-visits", "read:export-reading"])
def test_there_is_nothing_to_export_before_a_reading(client, name):
    study = make.study()
    client.force_login(make.owner(study))
    assert client.get(reverse(name, args=[study.pk])).status_code == 404


def test_notes_show_their_evidence_and_can_be_set_aside(reader, walked):
    html = page(reader, "read:reading", walked)
    assert "Side notes" in html
    assert "Show the" in html
    note = make.reading(walked).notes[0]
    reader.post(
        reverse("studies:note-decide", args=[walked.pk]),
        {"code": note.code, "subject": note.subject, "state": "set-aside", "reason": "known"},
    )
    html = page(reader, "read:reading", walked)
    assert "Set aside." in html
    assert "“known”" in html


def test_gaps_in_a_counter_are_rows_of_their_own():
    frames = [Frame(seq=s) for s in (5, 6, 9, 8)]
    assert [row.missing_before for row in frame_rows(frames)] == [0, 0, 2, 0]


def test_a_visit_shows_how_frames_came_that_came_in_a_way_of_their_own(reader, walked):
    walk = walked.walks.first()
    rows = ["A,1,0,1,-90,0", "A,1,2,1,-90,0", "A,1,1,1,-90,0", "A,1,3,1,-70,2", "A,1,3,1,-70,2"]
    make.log(
        walk,
        "rig,stop,seq,heard,rssi_dbm,hops,condition\n" + "".join(f"{row},odd\n" for row in rows),
    )
    visit = walk.visits.get(condition="odd")
    html = reader.get(reverse("read:visit", args=[walked.pk, visit.pk])).content.decode()
    assert "1 after one that was sent later" in html
    assert (
        "1 through a relay, which says nothing of the direct link" in html
        or "through a relay" in html
    )
    assert "1 more than once, counted once" in html
    assert "strip-key" in html


@pytest.mark.parametrize(("shift_db", "said"), [(-9, True), (0, False)])
def test_two_walks_are_set_beside_each_other_and_chance_is_named(reader, walked, shift_db, said):
    again = make.walk(walked)
    rows = [
        f"{rig},{stop},{i},1,{level + shift_db + (i % 5) - 2}"
        for rig, levels in LEVELS.items()
        for stop, level in enumerate(levels, start=1)
        if level > -105
        for i in range(40)
    ]
    make.log(again, make.LOG_HEADER + "\n".join(rows) + "\n", name="again.csv")
    make_reading(walked.pk)
    html = page(reader, "read:reading", walked)
    assert (", beyond chance" in html) is said
    assert ("no more than" in html) is not said


def test_visits_made_in_several_passes_are_named_and_asked_for(reader, walked):
    rows = "".join(f"A,1,{5000 + i},1,-70\n" for i in range(20))
    make.log(walked.walks.get(), make.LOG_HEADER + rows, name="evening.csv")
    make_reading(walked.pk)
    html = page(reader, "read:reading", walked)
    assert "2 passes" in html
    assert '<option value="2">2 passes</option>' in html
    assert page(reader, "read:reading", walked, passes="2").count('class="strip ') == 1


def test_a_strip_is_as_wide_as_it_should_be_and_says_its_counts():
    strip = strip_of([(1, 1), (1, 0), (4, 2)])
    assert strip.words == "3 of 6 heard, in the order sent"
    assert strip.heard.count("M") == 2
    assert strip.missed.count("M") == 2
    assert f"M{2 * WIDTH / 3:.1f}" in strip.heard
    assert strip_of([]).words == "no frames"


def test_a_visit_with_many_frames_comes_by_the_page(client, study, django_assert_max_num_queries):
    make.log(make.walk(study), make.frames_log(heard=250))
    client.force_login(make.owner(study))
    visit = study.walks.get().visits.get()
    with django_assert_max_num_queries(14):
        html = client.get(reverse("read:visit", args=[study.pk, visit.pk]), {"page": 3})
    assert "Page 3 of 3" in make.html(html)


def test_a_study_with_needed_places_is_read_before_anything_is_walked(owner_client, study):
    """A log coming in asks for a reading at once."""
    save_point(study, SitePoint(kind=SitePoint.NODE, name="gate", lat=47.5, lon=-21.0))
    place_fixed_end(study, Site(fixed_name="mast", lat=47.51, lon=-21.0))
    assert make_reading(study.pk) is not None
    html = make.html(owner_client.get(reverse("read:reading", args=[study.pk])))
    assert "Nothing has been walked yet" in html
    assert "fault of ours" not in html


def test_while_a_first_log_comes_in_the_page_asks_again(owner_client, study):
    walk = make.walk(study)
    make_reading(study.pk)
    page = reverse("read:reading", args=[study.pk])
    assert "hx-trigger" not in make.html(owner_client.get(page)).split("</main>")[0]
    FrameFile.objects.create(
        walk=walk, name="a.log", state=FrameFile.RECEIVING, by=make.owner(study)
    )
    html = make.html(owner_client.get(page)).split("</main>")[0]
    assert "hx-trigger" in html
    assert "The log is being read" in html
