"""Taking logs in: good lines taken, bad ones kept, the same twice nothing, all or none."""

import pytest
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction

from inchmark.walk.adapters.visits import summary_from_dict
from inchmark.walk.models import Frame, FrameFile, LineCorrection, Visit, VisitColumns
from inchmark.walk.querysets import FrameQuerySet
from inchmark.walk.services import ingest, outing, receive
from inchmark.walk.services.ingest import import_frames
from inchmark.walk.services.summaries import summarise
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def walk(study):
    """A walk of the study."""
    return make.walk(study)


def test_a_log_becomes_frames_and_a_visit_with_its_figures(walk):
    file = make.log(walk, make.frames_log(heard=18, lost=2))
    assert (file.state, file.frame_count, file.bad_count) == ("read", 20, 0)
    visit = walk.visits.get()
    assert (visit.sent, visit.heard) == (20, 18)
    assert visit.summary["level_mean_dbm"] == -90
    frame = visit.frames.get(line_number=2)
    assert (frame.seq, frame.heard, frame.rssi_dbm, frame.file) == (0, True, -90, file)


def test_every_column_reaches_the_frame(walk):
    make.log(
        walk,
        "rig,stop,seq,time,rssi_dbm,snr_db,noise_dbm,condition,direction,receiver,source,hops,lat,lon\n"
        "A,1,7,2026-11-14T09:00:00.5+01:00,-90.25,8.5,-117,pocket,up,mast,n\\1,2,47.5,-21\n",
    )
    frame = Frame.objects.select_related("visit").get()
    assert frame.time.isoformat() == "2026-11-14T08:00:00.500000+00:00"
    assert (frame.rssi_dbm, frame.snr_db, frame.noise_dbm) == (-90.25, 8.5, -117)
    assert (frame.source, frame.hops, frame.lat, frame.lon) == ("n\\1", 2, 47.5, -21)
    visit = frame.visit
    assert (visit.condition, visit.direction, visit.receiver) == ("pocket", "up", "mast")


def test_conditions_receivers_and_directions_are_visits_of_their_own(walk):
    make.log(
        walk,
        "rig,stop,seq,condition,receiver\nA,1,0,,m\nA,1,1,pocket,m\nA,1,2,,n\nA,2,3,,m\n",
    )
    assert walk.visits.count() == 4


def test_bad_lines_are_kept_with_number_text_and_reason(walk):
    file = make.log(walk, make.frames_log() + "A,1,zz,1,-90\n")
    bad = file.bad_lines.get()
    assert (bad.line_number, bad.text) == (22, "A,1,zz,1,-90")
    assert "not a number" in bad.reason
    assert file.frame_count == 20


def test_lines_of_unknown_rigs_and_stops_wait_for_them(walk):
    file = make.log(walk, make.frames_log() + "D,1,5,1,-90\nA,9,6,1,-90\n")
    reasons = list(file.bad_lines.values_list("reason", flat=True))
    assert "There is no rig D here" in reasons[0]
    assert "Stop 9 has no distance" in reasons[1]
    make.rig(walk.study, "D")
    make.stop(walk.study, "9", 900)
    file = import_frames(file.pk)
    assert (file.frame_count, file.bad_count) == (22, 0)
    assert walk.visits.count() == 3


def test_a_rig_answers_to_its_letter_in_either_case_and_to_its_name_in_logs(walk):
    make.rig(walk.study, "B", log_name="whip")
    file = make.log(walk, make.LOG_HEADER + "a,1,0,1,-90\nA,1,1,1,-90\nwhip,1,0,1,-80\n")
    assert (file.frame_count, file.bad_count) == (3, 0)
    assert {v.rig.letter: v.sent for v in walk.visits.all()} == {"A": 2, "B": 1}


def test_the_same_bytes_twice_add_nothing_and_say_so(walk):
    text = make.frames_log()
    make.log(walk, text)
    again = receive.receive(
        walk, name="copy.csv", blocks=[text.encode()], by=make.owner(walk.study)
    )
    assert again.known
    assert FrameFile.objects.count() == 1
    other_walk = make.walk(walk.study)
    assert receive.receive(
        other_walk, name="x", blocks=[text.encode()], by=make.owner(walk.study)
    ).known


def test_reading_again_replaces_and_does_not_add(walk):
    file = make.log(walk, make.frames_log())
    import_frames(file.pk)
    assert Frame.objects.count() == 20
    assert walk.visits.get().sent == 20


def test_a_corrected_line_is_read_and_the_file_keeps_the_line_as_it_came(walk):
    file = make.log(walk, make.frames_log() + "A,1,2O,1,-90\n")
    by = make.owner(walk.study)
    assert receive.correct_lines(file, {22: "A,1,20,1,-90", 99: "not a bad line"}, by=by) == 1
    file = import_frames(file.pk)
    assert (file.frame_count, file.bad_count) == (21, 0)
    assert b"A,1,2O,1,-90" in b"".join(receive.file_bytes(file))
    assert LineCorrection.objects.get().by == by


def test_a_line_corrected_to_another_mistake_is_kept_again(walk):
    file = make.log(walk, make.frames_log() + "A,1,2O,1,-90\n")
    receive.correct_lines(file, {22: "A,1,2o,1,-90"}, by=make.owner(walk.study))
    file = import_frames(file.pk)
    assert file.bad_lines.get().text == "A,1,2o,1,-90"


def test_an_unchanged_line_is_no_correction(walk):
    file = make.log(walk, make.frames_log() + "bad\n")
    assert receive.correct_lines(file, {22: "bad"}, by=make.owner(walk.study)) == 0
    assert file.state == "read"


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"PK\x03\x04xxxx", "a zip archive"),
        (b"time,level\n1,2\n", "no column rig"),
        (b"rig,stop,seq\n", "a header but no frames"),
    ],
)
def test_a_file_that_cannot_be_read_says_why_and_changes_nothing(walk, data, words):
    make.log(walk, make.frames_log(stop="2"))
    file = make.log(walk, data, name="odd.csv")
    assert file.state == "failed"
    assert words in file.problem
    assert Frame.objects.count() == 20


def test_an_error_in_the_middle_leaves_nothing_of_the_file(walk, monkeypatch):
    file = receive.receive(
        walk,
        name="log.csv",
        blocks=[make.frames_log().encode()],
        by=make.owner(walk.study),
        queue=False,
    ).file

    def broken(visits):
        raise RuntimeError("power cut")

    monkeypatch.setattr(ingest, "summarise", broken)
    with pytest.raises(RuntimeError):
        import_frames(file.pk)
    assert Frame.objects.count() == 0
    assert Visit.objects.count() == 0
    file.refresh_from_db()
    assert file.state == "waiting"


def test_thousands_of_bad_lines_are_counted_and_the_first_kept(walk, monkeypatch):
    monkeypatch.setattr(ingest, "KEPT_BAD_LINES", 10)
    file = make.log(walk, make.frames_log() + "bad\n" * 500)
    assert (file.bad_count, file.bad_lines.count()) == (500, 10)


@pytest.mark.parametrize("blocks", [[], [b""]])
def test_an_empty_file_is_refused_before_anything_is_kept(walk, blocks):
    with pytest.raises(receive.RefusedError, match="empty"):
        receive.receive(walk, name="x.csv", blocks=blocks, by=make.owner(walk.study))
    assert FrameFile.objects.count() == 0


def test_a_log_over_the_limit_is_refused(walk, settings):
    settings.UPLOAD_LIMIT_BYTES = 1024 * 1024
    with pytest.raises(receive.RefusedError, match="over 1 MB"):
        receive.receive(walk, name="x.csv", blocks=[b"x" * 2_000_000], by=make.owner(walk.study))
    assert FrameFile.objects.count() == 0


def test_too_many_logs_in_a_minute_are_refused(walk, monkeypatch):
    monkeypatch.setattr(receive, "FILES_A_MINUTE", 1)
    make.log(walk, make.frames_log())
    with pytest.raises(receive.RefusedError, match="Wait a minute"):
        make.log(walk, make.frames_log(stop="2"))


def test_a_large_file_is_kept_in_pieces_and_comes_back_whole(walk):
    data = make.frames_log(heard=150_000).encode()
    file = make.log(walk, data)
    assert file.chunks.count() >= 2
    assert b"".join(receive.file_bytes(file)) == data
    assert file.frame_count == 150_000


def test_numbers_python_reads_and_the_database_would_not_are_stored(walk):
    file = make.log(walk, make.LOG_HEADER + "A,1,1_0,1,-9_0\nA,1,11,1,+91\n")
    assert file.bad_count + file.frame_count == 2
    assert file.state == "read"


def test_lines_no_database_could_store_are_kept_all_the_same(walk):
    good, odd = ('{"rig": "A", "stop": 1, "seq": ' + seq for seq in ("0}", '"\\ud800\\u0000"}'))
    file = make.log(walk, "{}\n" * 2000 + f"{good}\n{odd}\nx\x00\n")
    assert (file.state, file.frame_count, file.bad_count) == ("read", 1, 2002)


def out_and_back():
    rows = [f"A,1,{i},1,-80" for i in range(20)]
    rows += [f"A,2,{i},1,-90" for i in range(40, 60)]
    rows += [f"A,1,{i},1,-81" for i in range(300, 320)]
    return make.LOG_HEADER + "\n".join(rows) + "\n"


def test_walking_out_and_back_loses_nothing_at_the_stop_come_back_to(walk):
    make.log(walk, out_and_back())
    visit = walk.visits.get(stop__label="1")
    assert (visit.sent, visit.heard, visit.summary["passes"]) == (40, 40, 2)


def test_a_second_log_of_the_same_stop_is_a_pass_of_its_own(walk):
    for start, name in ((0, "morning.csv"), (5000, "evening.csv")):
        rows = "\n".join(f"A,1,{start + i},1,-80" for i in range(20))
        make.log(walk, make.LOG_HEADER + rows + "\n", name=name)
    assert (walk.visits.get().sent, walk.visits.get().heard) == (40, 40)


def later_log(start):
    return make.LOG_HEADER + "".join(f"A,1,{start + i},1,-8{i % 3}\n" for i in range(20))


def test_a_further_log_is_summed_up_without_reading_the_first_again(walk, monkeypatch):
    first = make.log(walk, make.frames_log(), name="morning.csv")
    read, packed = [], FrameQuerySet.packed

    def noted(self, visit_id, file_id):
        read.append(file_id)
        return packed(self, visit_id, file_id)

    monkeypatch.setattr(FrameQuerySet, "packed", noted)
    second = make.log(walk, later_log(5000), name="evening.csv")
    assert read == [second.pk] != [first.pk]


def test_figures_from_kept_columns_are_those_of_the_frames(walk):
    for start in (0, 5000, 9000):
        make.log(walk, later_log(start), name=f"{start}.csv")
    kept = walk.visits.get().summary
    VisitColumns.objects.all().delete()
    summarise(walk.visits.select_related("rig", "walk"))
    assert walk.visits.get().summary == kept
    assert (kept["passes"], kept["heard"]) == (3, 60)


def test_positions_of_frames_reach_the_figures_of_their_visit(walk):
    rows = "".join(f"A,1,{i},-80,53.4,{5.2 + i / 1e4:.5f}\n" for i in range(9))
    make.log(walk, "rig,stop,seq,rssi_dbm,lat,lon\n" + rows)
    visit = walk.visits.get()
    position = summary_from_dict(visit.summary).position
    assert (position.frames, position.lat_deg) == (9, 53.4)
    assert position.lon_deg == pytest.approx(5.2004)
    assert position.east_sd_m > 10
    assert position.north_sd_m == 0


def test_a_log_read_anew_is_packed_anew(walk):
    text = make.frames_log(heard=18) + "A,1,18,1,x\n"
    file = make.log(walk, text)
    make.log(walk, later_log(5000), name="evening.csv")
    receive.correct_lines(file, {20: "A,1,18,1,-90"}, by=make.owner(walk.study))
    import_frames(file.pk)
    assert walk.visits.get().heard == 39


def test_a_silent_visit_is_logged_by_count_or_by_time(walk):
    rig, (near, far) = walk.study.rigs.get(), walk.study.stops.all()
    visit = outing.log_silent_visit(walk, rig, near, sent=40, minutes=None)
    assert (visit.sent, visit.heard) == (40, 0)
    with pytest.raises(ValidationError, match="beacon interval"):
        outing.log_silent_visit(walk, rig, far, sent=None, minutes=2)
    walk.interval_s = 2.0
    outing.change_walk(walk)
    assert outing.log_silent_visit(walk, rig, far, sent=None, minutes=2).sent == 61


def test_a_visit_with_frames_was_not_silent(walk):
    make.log(walk, make.frames_log())
    with pytest.raises(ValidationError, match="was not silent"):
        outing.log_silent_visit(
            walk, walk.study.rigs.get(), walk.study.stops.first(), sent=5, minutes=None
        )


def test_a_planned_count_turns_a_silent_tail_into_losses(walk):
    make.log(walk, make.frames_log(heard=18))
    walk.frames_per_visit = 60
    outing.change_walk(walk)
    visit = walk.visits.get()
    assert (visit.sent, visit.heard, visit.summary["silent_tail"]) == (60, 18, 42)


def test_readings_below_the_noise_are_found_out_and_corrected(walk):
    rows = "\n".join(f"A,1,{i},-116,{-3 - i % 6},-117" for i in range(40))
    make.log(walk, "rig,stop,seq,rssi_dbm,snr_db,noise_dbm\n" + rows)
    summary = walk.visits.get().summary
    assert summary["noise_in_rssi"]
    assert summary["level_mean_dbm"] < summary["rssi_mean_dbm"] - 4


def test_the_database_refuses_more_heard_than_sent(walk):
    make.log(walk, make.frames_log())
    with pytest.raises(IntegrityError), transaction.atomic():
        Visit.objects.update(heard=99)


def test_the_database_refuses_a_level_that_is_no_number(walk):
    make.log(walk, make.frames_log())
    with pytest.raises(IntegrityError), transaction.atomic():
        Frame.objects.update(rssi_dbm=float("nan"))
