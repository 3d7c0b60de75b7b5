"""What Read shows of links, conditions and receivers, and how its table is narrowed."""

from itertools import pairwise

import pytest
from django.urls import reverse

from inchmark.core.reading.result import Reading
from inchmark.read.drawings.chart import distance_axis, distance_ticks
from inchmark.read.drawings.charts import ReadCharts
from inchmark.read.figures import Shown, choices, table
from inchmark.read.services import make_reading
from inchmark.walk.models import Visit
from inchmark.walk.services.ingest import import_frames
from inchmark.walk.services.receive import receive
from tests import make

pytestmark = pytest.mark.django_db
HEADER = "rig,stop,seq,heard,rssi_dbm,condition,direction,receiver,hops\n"


def log_of(lost, *, direction="", receiver="", condition="", stop="1", level=-90, hops=0, rig="A"):
    rows = []
    for i in range(40):
        heard = i % 40 >= lost
        rssi = level + i % 5 if heard else ""
        rows.append(
            f"{rig},{stop},{i},{int(heard)},{rssi},{condition},{direction},{receiver},{hops}"
        )
    return rows


@pytest.fixture
def linked(study):
    by = make.owner(study)
    for label, metres in (("3", 300), ("4", 700)):
        make.stop(study, label, metres)
    rows = []
    for stop, level, lost in (("1", -70, 0), ("2", -95, 1), ("3", -112, 6), ("4", -120, 30)):
        for direction, more in (("to_fixed", 0), ("to_carried", 4)):
            rows += log_of(max(lost - more, 0), direction=direction, stop=stop, level=level + more)
    rows += log_of(4, direction="to_fixed", condition="in a box", stop="2", level=-104)
    rows += log_of(0, direction="to_fixed", stop="4", level=-60, hops=1)[:8]
    walk = make.walk(study)
    file = receive(
        walk, name="both.csv", blocks=[(HEADER + "\n".join(rows)).encode()], by=by, queue=False
    ).file
    import_frames(file.pk)
    make_reading(study.pk)
    return study


def test_links_conditions_and_the_relay_reach_the_page(owner_client, linked):
    words = [
        "Every link: a rig, a direction, a receiver",
        "to the carried end",
        "judged by this",
        "Question and answer together reach",
        "What a condition costs each rig",
        "in a box",
        "came through a relay",
        "How well the model describes this walk",
        "8 relayed",
    ]
    page = owner_client.get(reverse("read:reading", args=[linked.pk]))
    assert make.missing(page, words) == []


def test_the_charts_are_svg_from_the_server_with_a_key_for_frames_around_marks(linked):
    reading: Reading = make.reading(linked)
    charts = ReadCharts(linked, reading)
    assert next(one.words for one in charts.key()) == "to the fixed end"
    assert "to the fixed end, in a box" in {one.words for one in charts.key()}
    delivery, signal = charts.main()
    assert len(delivery.marks) == len(reading.visits)
    assert all(0 <= mark.y <= delivery.frame.height for mark in delivery.marks)
    frames = {mark.frame for mark in signal.marks}
    assert len(frames) == 3
    assert [chart.key for chart in charts.folded()] == ["waterfall", "residual", "noise"]
    assert charts.folded()[2].empty == "No noise was logged."


@pytest.mark.parametrize("distances", [(0.1, 0.4), (3, 90), (25, 1000), (20, 200_000)])
def test_distance_labels_fit_from_a_bench_to_a_horizon(distances):
    x = distance_axis(distances)
    ticks = distance_ticks(x)
    assert 1 <= len(ticks) <= 8
    places = [tick.at for tick in ticks]
    assert all(b - a > 30 for a, b in pairwise(places))


def test_the_table_narrows_by_link_and_condition_and_groups_by_rig(owner_client, linked):
    reading = make.reading(linked)
    assert [one.name for one in choices(reading)] == ["link", "condition", "passes"]
    groups = table(linked, reading, Shown(link="to_carried|"))
    assert sum(len(group.visits) for group in groups) == 4
    (box,) = table(linked, reading, Shown(condition="in a box"))
    assert [row.how for row in box.visits] == ["to the fixed end, in a box"]
    (rig,) = table(linked, reading, Shown(by="rig"))
    assert rig.label == "A"
    address = reverse("read:reading", args=[linked.pk])
    html = make.html(owner_client.get(address, {"condition": "nowhere", "by": "rig"}))
    assert "No visit is like that" in html


def test_many_visits_are_folded_to_a_row_a_stop_and_unfold(linked, monkeypatch):
    monkeypatch.setattr("inchmark.read.figures.visits.FOLD_FROM", 3)
    reading = make.reading(linked)
    folded = table(linked, reading, Shown())
    assert all(group.folded for group in folded)
    assert sum(group.sent for group in folded) == sum(one.sent for one in reading.visits)
    assert not any(group.folded for group in table(linked, reading, Shown(unfolded=True)))


def test_visits_csv_says_walk_direction_receiver_and_condition(owner_client, linked):
    page = owner_client.get(reverse("read:export-visits", args=[linked.pk]))
    header, *rows = page.content.decode().splitlines()
    assert header.startswith("rig,stop,distance_m,walk,direction,receiver,condition,sent,heard")
    assert sum(",to_carried," in row for row in rows) == 4


def test_summaries_of_an_older_kind_are_summed_up_again(linked):
    visit = Visit.objects.filter(walk__study=linked, direction="to_fixed", stop__label="4").get()
    old = {k: v for k, v in visit.summary.items() if k not in ("level_runs", "relayed", "version")}
    Visit.objects.filter(pk=visit.pk).update(summary=old)
    make_reading(linked.pk)
    visit.refresh_from_db()
    assert visit.summary["relayed"] == 8
