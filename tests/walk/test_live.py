"""A walk as it is walked: taps and notes kept once, lines shown as they come, photos made bare."""

import asyncio
import io
import json
from datetime import UTC, datetime, timedelta
from functools import partial

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connections
from django.test import AsyncRequestFactory
from django.urls import resolve, reverse
from django.utils import timezone
from PIL import Image

from inchmark.plan.services.design import design_of
from inchmark.walk.models import FrameFile, Mark, Photo, Stay, Visit
from inchmark.walk.services.field import account_of, make_pass, pass_of
from inchmark.walk.services.growing import append_lines
from inchmark.walk.services.live_walk import LiveWalk
from inchmark.walk.services.marks import keep_marks
from inchmark.walk.services.outlook import looks, next_visit
from inchmark.walk.services.photos import keep_photo
from inchmark.walk.services.receive import RefusedError
from inchmark.walk.tasks import import_file
from tests import make

NOON = datetime(2026, 11, 14, 12, tzinfo=UTC)


@pytest.fixture
def walk():
    return make.walk(make.field_study(rigs="AB", stops=3))


def place(minute, stop, rig="", **more):
    at = (NOON + timedelta(minutes=minute)).isoformat()
    return {"kind": "place", "at": at, "stop": stop, "rig": rig} | more


def sent(client, walk, marks, **more):
    body = {"start": "page-1", "first": 1, "marks": marks}
    return client.post(
        reverse("walk:marks", args=[walk.study_id, walk.pk]),
        json.dumps(body | more),
        content_type="application/json",
    )


def timeline(walk):
    return [
        (s.stop.label, s.rig.letter if s.rig else "", round((s.from_time - NOON).total_seconds() / 60),
         None if s.goes_on else round((s.to_time - NOON).total_seconds() / 60))
        for s in walk.stays.select_related("stop", "rig")
    ]  # fmt: skip


def lines(count, first=1, rig="A"):
    return [f"rx node={rig} seq={n} rssi={-80 - n % 3} snr=4" for n in range(first, first + count)]


def appended(walk, texts, *, first=1, began=0.0, source="gate"):
    came = [NOON.timestamp() + began + i for i in range(len(texts))]
    return append_lines(
        walk, source=source, start="s1", first=first, lines=texts, constants={},
        by=make.owner(walk.study), came=came,
    )  # fmt: skip


@pytest.mark.django_db
def test_each_tap_ends_the_stay_before_it(client, walk):
    client.force_login(make.owner(walk.study))
    answer = sent(client, walk, [place(0, "1"), place(5, "2", "A"), place(9, "")])
    assert answer.json() == {"through": 3}
    assert timeline(walk) == [("1", "", 0, 5), ("2", "A", 5, 9)]
    assert sent(
        client, walk, [place(0, "1"), place(5, "2", "A"), place(9, ""), place(12, "3")]
    ).json() == {"through": 4}
    assert timeline(walk)[-1] == ("3", "", 12, None)
    assert sent(client, walk, [place(20, "1")], first=9).json()["wanted"] == 5


@pytest.mark.django_db
def test_a_tap_that_comes_late_is_put_where_its_time_says(client, walk):
    client.force_login(make.owner(walk.study))
    sent(client, walk, [place(0, "1"), place(20, "3")])
    sent(client, walk, [place(10, "2")], start="page-2")
    assert timeline(walk) == [("1", "", 0, 10), ("2", "", 10, 20), ("3", "", 20, None)]


@pytest.mark.django_db
def test_stop_and_carry_tapped_together_are_one_thing(client, walk):
    client.force_login(make.owner(walk.study))
    sent(client, walk, [place(0, "1"), place(5, "2"), place(5.02, "2", condition="in a pocket")])
    assert timeline(walk) == [("1", "", 0, 5), ("2", "", 5, None)]
    assert walk.stays.last().condition == "in a pocket"


@pytest.mark.django_db
def test_taps_for_one_receiver_leave_the_others_alone(client, walk):
    client.force_login(make.owner(walk.study))
    sent(
        client,
        walk,
        [
            place(0, "1", receiver="left"),
            place(3, "2", receiver="right"),
            place(5, "3", receiver="left"),
        ],
    )
    assert timeline(walk) == [("1", "", 0, 5), ("2", "", 3, None), ("3", "", 5, None)]


@pytest.mark.django_db
def test_a_tap_of_what_the_study_lacks_becomes_a_note(client, walk):
    client.force_login(make.owner(walk.study))
    sent(client, walk, [place(0, "77", "Q")])
    mark = walk.marks.get()
    assert mark.kind == Mark.NOTE
    assert mark.text == "Tapped stop 77 and rig Q, which the study lacks."
    assert not walk.stays.exists()


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("mark", "words"),
    [
        ({"kind": "ready", "at": NOON.isoformat(), "item": "units", "skipped": True}, "Say why"),
        ({"kind": "place", "at": "0001-01-01T00:00:00+14:00", "stop": "1"}, "no time a clock"),
        ({"kind": "place", "at": "1901-01-01T00:00:00Z", "stop": "1"}, "Set the phone"),
        ({"kind": "song", "at": NOON.isoformat()}, "marks.0.kind"),
    ],
)
def test_marks_that_do_not_fit_get_a_sentence(client, walk, mark, words):
    client.force_login(make.owner(walk.study))
    answer = sent(client, walk, [mark])
    assert answer.status_code == 422
    assert words in answer.json()["detail"]
    assert not walk.marks.exists()


@pytest.mark.django_db
def test_lines_that_tell_no_time_are_placed_by_when_they_came(client, walk):
    client.force_login(make.owner(walk.study))
    sent(client, walk, [place(0, "1"), place(1, "2")])
    file = appended(walk, lines(90))
    import_file(file_id=file.pk)
    found = {v.stop.label: (v.sent, v.heard) for v in Visit.objects.select_related("stop")}
    assert found == {"1": (60, 60), "2": (30, 30)}
    file.refresh_from_db()
    assert (file.frame_count, file.bad_count) == (90, 0)


@pytest.mark.django_db
def test_a_late_tap_has_the_logs_placed_anew(client, walk):
    client.force_login(make.owner(walk.study))
    sent(client, walk, [place(0, "1")])
    file = appended(walk, lines(90))
    import_file(file_id=file.pk)
    sent(client, walk, [place(1, "3")], start="page-2")
    import_file(file_id=file.pk)
    assert {v.stop.label: v.sent for v in Visit.objects.select_related("stop")} == {
        "1": 60,
        "3": 30,
    }


@pytest.mark.django_db
def test_times_must_be_as_many_as_the_lines(client, walk):
    client.force_login(make.owner(walk.study))
    body = {"source": "gate", "start": "s", "first": 1, "lines": ["a", "b"], "came": [1.0]}
    page = reverse("walk:lines", args=[walk.study_id, walk.pk])
    answer = client.post(page, json.dumps(body), content_type="application/json")
    assert answer.status_code == 422
    assert "1 times came for 2 lines" in answer.json()["detail"]


@pytest.mark.django_db
def test_a_live_walk_follows_lines_taps_and_recipes(walk):
    by = make.owner(walk.study)
    keep_marks(walk, start="p", first=1, marks=[_parsed(place(0, "1"))], by=by)
    file = appended(walk, lines(3))
    live = LiveWalk(walk.pk)
    assert [(one.rig.letter, one.visit.stop, one.visit.summary.sent) for one in live.links()] == [
        ("A", "1", 3)
    ]
    assert [rig.letter for rig in live.quiet()] == ["B"]
    appended(walk, lines(12, first=4), first=4, began=3)
    told = {"kind": "lines", "file": file.pk}
    assert live.follow([told]) is None or live.links()[0].visit.summary.sent == 15
    assert live.links()[0].visit.summary.sent == 15
    appended(walk, lines(2, first=16), first=16, began=15)
    assert live.follow([told]) == {("A", "", "")}
    keep_marks(walk, start="p", first=2, marks=[_parsed(place(0.2, "2"))], by=by)
    assert live.follow([{"kind": "place"}]) is None
    assert (live.links()[0].visit.stop, live.links()[0].visit.summary.sent) == ("2", 5)
    link = live.links()[0]
    assert link.air.left_s < link.air.allowed_s
    assert link.visit.enough.more > 0


@pytest.mark.django_db
def test_a_live_walk_says_what_does_not_count(walk):
    keep_marks(walk, start="p", first=1, marks=[_parsed(place(0, "1"))], by=make.owner(walk.study))
    appended(walk, lines(14, rig="Z"))
    appended(walk, ["hello", "what", "is this"] * 8, source="talk")
    live = LiveWalk(walk.pk)
    assert live.strangers() == [("rig Z", 14)]
    assert {one.name: one.asking for one in live.by_source()} == {"gate": False, "talk": True}
    own = ["rig,stop,seq,heard,rssi_dbm", "A,1,1,1,-90", "A,1,2,1,-91", "A,9,3,1,-91"]
    append_lines(
        walk, source="ours", start="s", first=1, lines=own, constants={}, by=make.owner(walk.study)
    )
    live = LiveWalk(walk.pk)
    assert ("stop 9", 1) in live.strangers()
    assert [one.visit.summary.sent for one in live.links()] == [2]


def _parsed(mark):
    return mark | {"at": datetime.fromisoformat(mark["at"])}


@pytest.mark.django_db(transaction=True)
def test_who_watches_hears_of_it_whichever_process_kept_it(walk):
    by = make.owner(walk.study)
    keep_marks(walk, start="p", first=1, marks=[_parsed(place(0, "1"))], by=by)
    appended(walk, lines(14))

    page = reverse("walk:events", args=[walk.study_id, walk.pk])
    asked = AsyncRequestFactory().get(page)
    asked.user = by

    async def watch():
        answer = await asyncio.to_thread(
            _alone, partial(resolve(page).func, asked, walk.study_id, walk.pk)
        )
        stream, page_parts = aiter(answer), {}

        async def until(words):
            while words not in page_parts.get("links", "") + "".join(page_parts.values()):
                told = (await asyncio.wait_for(anext(stream), 20)).decode()
                if told.startswith("event: part"):
                    part = json.loads(told.partition("data: ")[2])
                    page_parts[part["name"]] = part["html"]

        await until("<b>14</b> of 14")
        await until("(at the desk)")
        assert {"links", "sources", "place", "next", "now", "marks", "people"} <= set(page_parts)
        more = partial(appended, walk, lines(6, first=15), first=15, began=14)
        await asyncio.to_thread(_alone, more)
        await until("<b>20</b> of 20")
        note = [{"kind": "note", "at": NOON, "text": "a lorry"}]
        await asyncio.to_thread(
            _alone, partial(keep_marks, walk, start="p", first=2, marks=note, by=by)
        )
        await until("a lorry")
        await stream.aclose()

    asyncio.run(watch())


def _alone(work):
    try:
        return work()
    finally:
        connections.close_all()


@pytest.mark.django_db
def test_the_live_page_is_for_members_and_those_who_log(client, walk):
    pages = [
        reverse(f"walk:{name}", args=[walk.study_id, walk.pk])
        for name in ("desk", "next-place", "thumb")
    ]
    for who, thumb in ((make.owner(walk.study), 200), (make.member(walk.study), 404)):
        client.force_login(who)
        assert [client.get(page).status_code for page in pages] == [200, 200, thumb]
    assert sent(client, walk, [place(0, "1")]).status_code == 404  # a viewer says nothing
    secret = make_pass(walk, "Ben")
    client.force_login(
        account_of(pass_of(secret)), backend="django.contrib.auth.backends.ModelBackend"
    )
    assert sent(client, walk, [place(0, "1")]).status_code == 200
    page = reverse("walk:events", args=[walk.study_id, walk.pk])
    assert client.get(page).status_code == 204  # the test client is no server of streams
    asked = AsyncRequestFactory().get(page)
    asked.user = walk.passes.get().user
    stream = resolve(page).func(asked, walk.study_id, walk.pk)
    assert stream["Content-Type"] == "text/event-stream"
    assert stream.streaming
    client.force_login(make.user())
    assert [client.get(page).status_code for page in pages] == [404, 404, 404]
    assert client.get(reverse("walk:events", args=[walk.study_id, walk.pk])).status_code == 404


@pytest.mark.django_db
def test_the_next_visit_follows_the_plan_and_says_when_it_was_left(walk):
    design = design_of(walk.study)
    design.shuffled = False
    design.save()
    by = make.owner(walk.study)
    found = next_visit(walk, NOON)
    assert (found.stop.label, found.rig.letter, found.done, found.of) == ("1", "A", 0, 6)
    keep_marks(walk, start="p", first=1, marks=[_parsed(place(0, "2", "A"))], by=by)
    found = next_visit(walk, NOON)
    assert (found.stop.label, found.rig.letter, found.left_order) == ("2", "B", True)
    keep_marks(
        walk,
        start="p",
        first=2,
        marks=[_parsed(place(i, s)) for i, s in ((5, "1"), (6, "2"), (7, "3"))],
        by=by,
    )
    assert next_visit(walk, NOON) is None


@pytest.mark.django_db
def test_the_next_visit_names_the_way_it_is_carried(walk):
    design = design_of(walk.study)
    design.shuffled, design.ways = False, ["other radios on"]
    design.save()
    by = make.owner(walk.study)
    assert next_visit(walk, NOON).of == 12
    keep_marks(walk, start="p", first=1, marks=[_parsed(place(0, "1", "A"))], by=by)
    found = next_visit(walk, NOON)
    assert (found.stop.label, found.rig.letter, found.way) == ("1", "A", "other radios on")
    tapped = place(5, "1", "A") | {"condition": "other radios on"}
    keep_marks(walk, start="p", first=2, marks=[_parsed(tapped)], by=by)
    found = next_visit(walk, NOON)
    assert (found.stop.label, found.rig.letter, found.way, found.done) == ("1", "B", "", 2)


@pytest.mark.django_db
def test_looks_before_the_first_frame_are_done_skipped_or_open(client, walk):
    client.force_login(make.owner(walk.study))
    at = NOON.isoformat()
    sent(client, walk, [{"kind": "ready", "at": at, "item": "units"},
                        {"kind": "ready", "at": at, "item": "cautions", "skipped": True, "text": "bench only"}])  # fmt: skip
    found = {one.item: one for one in looks(walk)}
    assert found["units"].settled
    assert found["cautions"].mark.text == "bench only"
    assert not found["read-back"].settled
    page = make.html(client.get(reverse("walk:desk", args=[walk.study_id, walk.pk])))
    assert "passed over, “bench only”" in page


@pytest.mark.django_db
def test_a_photo_is_made_small_upright_and_bare(walk):
    by = make.owner(walk.study)
    exif = Image.Exif()
    exif[0x0112] = 6  # lay on its side
    exif.get_ifd(0x8825)[1] = "N"
    raw = make.picture(3000, 2000, exif=exif)
    assert Image.open(raw).getexif().get_ifd(0x8825)
    raw.seek(0)
    photo = keep_photo(walk, raw, by=by, text="the sluice", at=timezone.now())
    kept = Image.open(io.BytesIO(bytes(photo.data)))
    assert (kept.width, kept.height) == (1067, 1600)
    assert not kept.getexif()
    raw.seek(0)
    assert keep_photo(walk, raw, by=by).pk == photo.pk


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"no picture", "no JPEG"),
        (b"\xff\xd8\xff\xe0" + b"\0" * 100, "no JPEG"),
        (make.picture(9000, 9000, "PNG").getvalue(), "9000"),
        (b"\0" * 15_000_001, "over 15 MB"),
    ],
)
def test_what_is_no_photo_is_refused_with_a_sentence(walk, data, words):
    with pytest.raises(RefusedError, match=words):
        keep_photo(walk, io.BytesIO(data), by=make.owner(walk.study))
    assert not Photo.objects.exists()


@pytest.mark.django_db
def test_photos_come_through_the_page_and_are_seen_by_members_only(client, walk):
    client.force_login(make.owner(walk.study))
    page = reverse("walk:photo-add", args=[walk.study_id, walk.pk])
    file = SimpleUploadedFile("gate.jpg", make.picture().getvalue(), "image/jpeg")
    assert "The photo is kept" in make.html(
        client.post(page, {"file": file, "text": "gate"}, follow=True)
    )
    assert "Choose a picture" in make.html(client.post(page, {}, follow=True))
    kept = {"file": SimpleUploadedFile("b.jpg", make.picture(50).getvalue())}
    answer = client.post(
        page,
        kept | {"at": "2026-11-14T10:00:00.5Z", "stop": "2", "text": "rail"},
        headers={"Accept": "application/json"},
    )
    assert (answer.status_code, answer.json()) == (200, {"detail": ""})
    second = Photo.objects.get(text="rail")
    assert (second.stop.label, second.at.hour) == ("2", 10)
    answer = client.post(
        page,
        {"file": SimpleUploadedFile("c.jpg", b"none")},
        headers={"Accept": "application/json"},
    )
    assert answer.status_code == 422
    assert "no JPEG, PNG or WebP" in answer.json()["detail"]
    second.delete()
    photo = reverse("walk:photo", args=[walk.study_id, Photo.objects.get().pk])
    assert client.get(photo)["Content-Type"] == "image/jpeg"
    client.force_login(make.user())
    assert client.get(photo).status_code == 404


@pytest.mark.django_db
def test_nothing_is_kept_of_a_walk_of_others(client, walk):
    client.force_login(make.user())
    assert sent(client, walk, [place(0, "1")]).status_code == 404
    assert not Stay.objects.exists()
    assert not FrameFile.objects.exists()


@pytest.mark.django_db
def test_where_a_phone_was_becomes_a_track(client, walk):
    client.force_login(make.owner(walk.study))
    spots = [
        {
            "at": (NOON + timedelta(seconds=4 * i)).isoformat(),
            "lat": 47.5 + i / 1e5,
            "lon": -21.0,
            "accuracy_m": 6.0,
        }
        for i in range(14)
    ]
    page = reverse("walk:positions", args=[walk.study_id, walk.pk])
    for _ in range(2):
        answer = client.post(
            page,
            json.dumps({"start": "p", "first": 1, "positions": spots}),
            content_type="application/json",
        )
        assert answer.json()["through"] == 14
    file = FrameFile.objects.get()
    import_file(file_id=file.pk)
    file.refresh_from_db()
    assert [bad.reason for bad in file.bad_lines.all()] == []
    client.post(reverse("walk:track-from-log", args=[walk.study_id, file.pk]))
    assert walk.tracks.get().count == 14
    wrong = [spots[0] | {"lat": 91}]
    refused = client.post(
        page,
        json.dumps({"start": "q", "first": 1, "positions": wrong}),
        content_type="application/json",
    )
    assert "positions.0.lat" in refused.json()["detail"]


@pytest.mark.django_db
def test_bars_are_kept_and_become_no_level(client, walk):
    client.force_login(make.owner(walk.study))
    press = {"at": NOON.isoformat(), "heard": True, "rig": "A", "stop": "1", "bars": 3}
    page = reverse("walk:presses", args=[walk.study_id, walk.pk])
    client.post(
        page,
        json.dumps({"start": "p", "first": 1, "presses": [press]}),
        content_type="application/json",
    )
    file = FrameFile.objects.get()
    assert b'"bars": 3' in bytes(file.chunks.get().data)
    import_file(file_id=file.pk)
    visit = Visit.objects.get()
    assert (visit.heard, visit.summary["rssi_mean_dbm"]) == (1, None)
