"""A log of any board: its recipe on a page, names the study lacks, a timeline, and setting it aside."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.shelf_file import shelf_text
from inchmark.shelf.services.shelf_files import shelf_of, starter_shelf, take_in
from inchmark.walk.models import Frame, FrameFile, Visit
from inchmark.walk.services import ingest
from inchmark.walk.services.ingest import import_frames
from tests import make
from tests.dialects import DIALECTS, gateways, walk

pytestmark = pytest.mark.django_db


def upload(client, of, text, name="board.log"):
    data = text if isinstance(text, bytes) else text.encode()
    page = reverse("walk:log-upload", args=[of.study_id, of.pk])
    return client.post(page, {"file": SimpleUploadedFile(name, data)}, follow=True)


def posted(response, **changes):
    """What the recipe page would send, with changes."""
    typed = {}
    for form in (response.context["form"], response.context["said"]):
        for field in form:
            value = field.value()
            if value not in (None, False):
                typed[field.html_name] = value
    return typed | changes


def keep(client, response, **changes):
    file = response.context["file"]
    page = reverse("walk:recipe", args=[file.walk.study_id, file.pk])
    return client.post(page, posted(response, keep="1", **changes), follow=True)


@pytest.fixture
def outing():
    return make.walk(make.field_study(rigs="AB", stops=3))


@pytest.fixture
def editor(client, outing):
    client.force_login(make.owner(outing.study))
    return client


def counts(of):
    return {
        (v.rig.letter, v.stop.label): (v.sent, v.heard)
        for v in of.visits.select_related("rig", "stop")
    }


def expected(frames):
    found: dict = {}
    for one in frames:
        found.setdefault((one.rig, one.stop), []).append(one)
    return {
        key: (
            max(o.seq for o in own if o.heard) - min(o.seq for o in own if o.heard) + 1,
            sum(o.heard for o in own),
        )
        for key, own in found.items()
    }


@pytest.mark.parametrize(
    "name",
    ["keys and values", "sentences", "foreign heads, decimal commas", "JSON lines", "UTF-16"],
)
def test_a_foreign_log_is_shown_line_by_line_and_gives_its_frames(editor, outing, name):
    response = upload(editor, outing, DIALECTS[name].write(walk()))
    html = make.html(response)
    assert "How board.log is read" in html
    assert "frame 10 of A at stop 1" in html
    assert not Frame.objects.exists()
    keep(editor, response)
    assert counts(outing) == expected(walk())
    file = FrameFile.objects.get()
    assert file.state == FrameFile.READ
    assert file.no_frame_count >= 0


def test_our_own_frame_log_needs_no_recipe_and_is_read_as_before(editor, outing):
    response = upload(editor, outing, "rig,stop,seq\nA,1,1\nA,1,2\n", "own.csv")
    file = FrameFile.objects.get()
    assert (file.recipe, file.state) == (None, FrameFile.WAITING)
    assert "own.csv" in make.html(response)
    import_frames(file.pk)
    assert counts(outing) == {("A", "1"): (2, 2)}


def test_per_cent_is_asked_once_and_answered_once(editor, outing):
    lines = [f"14:02:0{i} frame #{i} from A: signal {40 + i}%" for i in range(9)]
    response = upload(editor, outing, "\n".join(lines))
    assert "is in per cent (40 to 48). Of what?" in make.html(response)
    wrong = keep(editor, response, stop="1", level="percent")
    assert wrong.status_code == 422
    assert "Write the RSSI at 0 %" in make.html(wrong)
    keep(editor, response, stop="1", level="percent", low="-130", high="-50")
    assert Frame.objects.get(seq=0).rssi_dbm == -98.0


def test_what_a_log_does_not_say_is_said_for_all_its_lines(editor, outing):
    response = upload(editor, outing, DIALECTS["a counter in hex"].write(walk()[:20]))
    html = make.html(response)
    assert "frames name no rig" in html
    assert "frames name no stop" in html
    shown = editor.post(
        reverse("walk:recipe", args=[outing.study_id, response.context["file"].pk]),
        posted(response, rig="B", stop="2"),
    )
    assert "frame 10 of B at stop 2" in make.html(shown)
    assert not Frame.objects.exists()
    keep(editor, response, rig="B", stop="2", condition="pocket", receiver="R1")
    visit = Visit.objects.get()
    assert (visit.rig.letter, visit.stop.label) == ("B", "2")
    assert (visit.condition, visit.receiver) == ("pocket", "R1")


def test_another_choice_for_a_part_gives_other_frames_from_the_same_lines(editor, outing):
    lines = [f"{i};{-80 - i};{100 + i};1" for i in range(9)]
    response = upload(editor, outing, "\n".join(lines))
    names = [part.name for part in response.context["form"].shown]
    wanted = {f"part-{names.index('/4[3]')}": "seq", f"part-{names.index('/4[1]')}": ""}
    response = keep(editor, response, rig="A", stop="1", **wanted)
    assert sorted(Frame.objects.values_list("seq", flat=True)) == list(range(100, 109))
    file = FrameFile.objects.get()
    page = editor.get(reverse("walk:recipe", args=[outing.study_id, file.pk]))
    assert "counter of the frame" in make.html(page)
    none = {f"part-{i}": "" for i in range(len(names))}
    wrong = keep(editor, page, **none)
    assert wrong.status_code == 422
    assert "No part is the counter" in make.html(wrong)


def test_a_recipe_kept_before_is_offered_for_the_next_log_of_its_kind(editor, outing):
    lines = [f"14:02:0{i} frame #{i} from A: signal {40 + i}%" for i in range(9)]
    response = upload(editor, outing, "\n".join(lines))
    keep(editor, response, stop="1", level="percent", low="-130", high="-50")
    response = upload(editor, outing, "\n".join(lines[:6]).replace("14:02", "14:09"), "next.log")
    html = make.html(response)
    assert "Of what?" not in html
    assert "−98.0 dBm" in html


def test_a_recipe_is_kept_with_the_module_and_goes_with_the_shelf(client, editor, outing):
    take_in(outing.study, starter_shelf())
    module = outing.study.module_parts.order_by("pk")[0]
    outing.study.rigs.filter(letter="A").update(setting_part=module.settings.first())
    lines = [f"14:02:0{i} frame #{i} from A: signal {40 + i}%" for i in range(9)]
    response = upload(editor, outing, "\n".join(lines))
    keep(editor, response, stop="1", level="percent", low="-130", high="-50")
    module.refresh_from_db()
    assert module.recipe_from == "board.log"
    assert "is known from board.log" in make.html(editor.get(module.get_absolute_url()))

    other = make.walk(make.field_study(rigs="A", stops=2))
    take_in(other.study, shelf_text(shelf_of(outing.study)).encode())
    client.force_login(make.owner(other.study))
    html = make.html(upload(client, other, "\n".join(lines), "elsewhere.log"))
    assert f"by the recipe of module {module.name}, so" in html
    assert "Of what?" not in html
    assert "−98.0 dBm" in html


def test_a_shelf_file_with_a_recipe_that_is_none_is_refused(outing):
    shelf = json.loads(starter_shelf())
    shelf["modules"][0]["recipe"] = {"uses": "all of it"}
    with pytest.raises(UnreadableFileError, match=r"modules\.0\.recipe|recipe"):
        take_in(outing.study, json.dumps(shelf).encode())


def test_several_receivers_of_one_line_are_visits_of_their_own(editor, outing):
    response = upload(editor, outing, gateways(walk()))
    keep(editor, response)
    assert set(outing.visits.values_list("receiver", flat=True)) == {"barn", "pump"}


def test_damaged_lines_are_kept_and_talk_is_counted_apart(editor, outing):
    lines = ["boot ok", *(f"rx seq={i} rssi=-8{i}" for i in range(9)), "rx seq=9 rs"]
    keep(editor, upload(editor, outing, "\n".join(lines)), rig="A", stop="1")
    file = FrameFile.objects.get()
    assert (file.frame_count, file.bad_count, file.no_frame_count) == (9, 1, 1)
    assert file.bad_lines.get().text == "rx seq=9 rs"
    page = reverse("walk:bad-lines", args=[outing.study_id, file.pk])
    editor.post(page, {"line-11": "rx seq=9 rssi=-89"})
    assert Frame.objects.count() in (9, 10)  # a corrected log is read in the queue


def test_names_the_study_lacks_are_made_or_mapped_at_a_click(editor, outing):
    text = DIALECTS["sentences"].write(walk(rigs="AQ", stops=5))
    response = keep(editor, upload(editor, outing, text))
    html = make.html(response)
    assert "What the logs name" in html
    assert [f.label for f in response.context["form"].rig_fields()] == [
        "Q, 85 frames"
    ] or "Q, " in html
    page = reverse("walk:names", args=[outing.study_id, outing.pk])
    editor.post(page, {"rig-0": "new", "metres-0": "900 m", "stop-1": "3"})
    assert outing.study.rigs.filter(letter="Q").exists()
    assert outing.study.stops.get(label="4").distance_m == 900.0
    assert ("Q", "4") in counts(outing)
    assert not FrameFile.objects.get().unknown["stops"]


def test_a_log_set_aside_gives_nothing_and_can_be_taken_back(editor, outing):
    keep(editor, upload(editor, outing, DIALECTS["sentences"].write(walk())))
    file = FrameFile.objects.get()
    page = reverse("walk:file-aside", args=[outing.study_id, file.pk])
    html = make.html(editor.post(page, {"reason": ""}, follow=True))
    assert "say in a few words" in html
    html = make.html(editor.post(page, {"reason": "wrong antenna on"}, follow=True))
    assert "wrong antenna on" in html
    assert not outing.visits.exists()
    assert file.chunks.exists()
    editor.post(page, {})
    assert counts(outing) == expected(walk())


TIMELINE = "from,to,stop,rig,sent\n13:00,13:05,1,A,\n13:05,13:08,1,B,\n13:08,13:20,2,A,\n14:00,14:10,3,B,12\n"


def timed_log():
    lines = []
    for i in range(120):
        at = 13 * 3600 + i * 10
        lines.append(
            f"{at // 3600:02d}:{at // 60 % 60:02d}:{at % 60:02d} rx seq={i} rssi=-{80 + i % 9}"
        )
    return "\n".join(lines)


def test_a_wrong_rig_for_three_minutes_is_mended_by_the_timeline(editor, outing):
    keep(editor, upload(editor, outing, timed_log()), rig="A", stop="1")
    assert counts(outing) == {("A", "1"): (120, 120)}
    file = FrameFile.objects.get()
    page = editor.get(reverse("walk:recipe", args=[outing.study_id, file.pk]))
    keep(editor, page, rig="", stop="")
    stays = reverse("walk:stays", args=[outing.study_id, outing.pk])
    html = make.html(editor.post(stays, {"text": TIMELINE}, follow=True))
    assert "1 log was read anew" in html
    assert "time-strip" in html
    assert counts(outing) == {
        ("A", "1"): (30, 30), ("B", "1"): (18, 18), ("A", "2"): (72, 72), ("B", "3"): (12, 0),
    }  # fmt: skip
    assert file.chunks.count() == 1


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("from,to\n", "no column stop"),
        ("from,to,stop\nsoon,13:00,1\n", "line 2"),
        ("from,to,stop\n13:00,13:05,99\n", "no stop 99"),
        ("from,to,stop,rig\n13:00,13:05,1,Z\n", "no rig Z"),
        ("from,to,stop,colour\n13:00,13:05,1,red\n", "which nobody knows"),
    ],
)
def test_a_wrong_timeline_keeps_what_was_typed_and_says_why(editor, outing, text, words):
    stays = reverse("walk:stays", args=[outing.study_id, outing.pk])
    response = editor.post(stays, {"text": text})
    assert response.status_code == 422
    assert words in make.html(response)
    assert not outing.stays.exists()


def test_an_empty_timeline_takes_all_stays_off(editor, outing):
    stays = reverse("walk:stays", args=[outing.study_id, outing.pk])
    editor.post(stays, {"text": TIMELINE})
    assert outing.stays.count() == 4
    assert "2026" in editor.get(stays).context["form"].initial["text"]
    editor.post(stays, {"text": ""})
    assert not outing.stays.exists()


def test_a_study_begins_with_logs_and_asks_only_what_no_log_can_know(client):
    user = make.user()
    client.force_login(user)
    page = reverse("begin-with-logs")
    assert client.get(page).status_code == 200
    assert "Choose one log or more" in make.html(client.post(page, {}))
    files = [
        SimpleUploadedFile("one.csv", DIALECTS["heads with units"].write(walk()).encode()),
        SimpleUploadedFile("two.log", DIALECTS["sentences"].write(walk(first=500)).encode()),
    ]
    response = client.post(page, {"files": files}, follow=True)
    assert "How one.csv is read" in make.html(response)
    response = keep(client, response)
    assert "How two.log is read" in make.html(response)
    response = keep(client, response)
    assert "What the logs name" in make.html(response)
    metres = {f"metres-{i}": f"{50 * 2**i} m" for i in range(3)}
    names = response.request["PATH_INFO"]
    response = client.post(names, {"rig-0": "new", "rig-1": "new", **metres}, follow=True)
    study = user.studies.get()
    assert study.title == "one"
    assert response.request["PATH_INFO"] == reverse("read:reading", args=[study.pk])
    assert Visit.objects.count() == 6


def test_no_text_and_an_archive_get_a_sentence(editor, outing):
    html = make.html(upload(editor, outing, b"PK\x03\x04" + bytes(200), "log.zip"))
    assert "a zip archive or a workbook" in html
    assert FrameFile.objects.get().state == FrameFile.FAILED


def test_a_long_log_is_placed_line_by_line_with_the_same_counts(editor, outing, monkeypatch):
    text = DIALECTS["sentences"].write(walk()) + "\r\nReceived packet 9 from A with RSSI"
    response = upload(editor, outing, text)
    monkeypatch.setattr(ingest, "STREAMED_BYTES", 10)
    keep(editor, response)
    assert counts(outing) == expected(walk())
    file = FrameFile.objects.get()
    assert (file.bad_count, file.no_frame_count) == (1, 4)


def test_a_long_log_knows_passes_by_the_timeline_too(editor, outing, monkeypatch):
    monkeypatch.setattr(ingest, "STREAMED_BYTES", 10)
    response = upload(editor, outing, timed_log())
    stays = reverse("walk:stays", args=[outing.study_id, outing.pk])
    text = "from,to,stop,rig\n13:00,13:05,1,A\n13:05,13:08,1,B\n13:08,13:20,1,A\n"
    editor.post(stays, {"text": text})
    keep(editor, response)
    assert counts(outing) == {("A", "1"): (102, 102), ("B", "1"): (18, 18)}


def test_distances_can_be_pasted_in_order_or_by_name(editor, outing):
    text = DIALECTS["sentences"].write(walk(stops=6))
    keep(editor, upload(editor, outing, text))
    page = reverse("walk:names", args=[outing.study_id, outing.pk])
    wrong = editor.post(page, {"pasted": "900\nfar"})
    assert wrong.status_code == 422
    assert "Line 2, “far”" in make.html(wrong)
    assert "no log names such a stop" in make.html(editor.post(page, {"pasted": "1\n2\n3\n4"}))
    editor.post(page, {"pasted": "900\n5; 1.2 km\n6\t2000 m"})
    found = dict(outing.study.stops.values_list("label", "distance_m"))
    assert {label: found[label] for label in "456"} == {"4": 900.0, "5": 1200.0, "6": 2000.0}
