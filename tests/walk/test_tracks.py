"""Tracks of a walk: stops measured, clocks compared, a drive cut into bins; and what goes wrong."""

from datetime import UTC, datetime

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from inchmark.core.gathering.way import Point
from inchmark.core.geodesy import Place, destination
from inchmark.plan.models import Site, Stop
from inchmark.walk.models import Track, Visit
from inchmark.walk.services import stays
from inchmark.walk.services.marks import keep_marks
from inchmark.walk.services.photos import keep_photo
from inchmark.walk.services.tracks import add_track
from tests import make

BEGAN = datetime(2026, 11, 14, 13, 0, tzinfo=UTC).timestamp()
FIXED = Place(lat_deg=54.2, lon_deg=7.9)


def place_at(metres):
    return destination(FIXED, 70.0, metres)


def driving(t):
    return 40.0 + 1.5 * t


def gpx(metres_at, seconds, late_s=0):
    points = []
    for t in range(0, seconds, 2):
        place = place_at(metres_at(t))
        at = datetime.fromtimestamp(BEGAN + t + late_s, UTC)
        points.append(
            f'<trkpt lat="{place.lat_deg:.7f}" lon="{place.lon_deg:.7f}"><time>{at:%Y-%m-%dT%H:%M:%SZ}</time></trkpt>'
        )
    head = '<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>'
    return f"{head}{''.join(points)}</trkseg></trk></gpx>".encode()


def log_of(metres_at, seconds):
    import math

    lines = []
    for t in range(0, seconds, 2):
        at = datetime.fromtimestamp(BEGAN + t, UTC)
        level = -30 - 28 * math.log10(metres_at(t)) + (t * 7 % 5)
        lines.append(f"[{at:%H:%M:%S}.000] rx rig=A seq={t // 2} rssi={level:.0f} snr=6.5")
    return "\n".join(lines)


@pytest.fixture
def outing(owner_client, study):
    Site.objects.update_or_create(
        study=study, defaults={"lat": FIXED.lat_deg, "lon": FIXED.lon_deg}
    )
    walk = make.walk(study)
    return walk


def page(client, name, walk, **sent):
    address = reverse(f"walk:{name}", args=[walk.study_id, walk.pk])
    return client.post(address, sent, follow=True) if sent else client.get(address)


def bring(client, walk, data, end="carried"):
    return page(client, "tracks", walk, file=SimpleUploadedFile("way.gpx", data), end=end)


def read_log(walk, text):
    from inchmark.walk.services import known_recipes, recipes
    from inchmark.walk.services.receive import receive

    file = receive(walk, name="board.log", blocks=[text.encode()], by=make.owner(walk.study)).file
    proposal = known_recipes.proposal_for(file)
    said = recipes.said_of(file).model_copy(update={"day": walk.walked_on, "zone": "+00:00"})
    return recipes.keep_recipe(file, proposal.recipe, said)


def test_stops_take_the_distances_that_a_track_measures(owner_client, outing):
    stays.keep_timeline(
        outing, "from,to,stop\n13:00,13:02,1\n13:02,13:04,2\n", make.owner(outing.study)
    )
    shown = bring(owner_client, outing, gpx(lambda t: 62.0 if t < 120 else 180.0, 240))
    assert make.missing(shown, ["62 m ±", "180 m ±", "apart", "way.gpx is kept"]) == []
    taken = page(owner_client, "tracks-measure", outing, stop=["2"])
    assert "1 stop took the measured distance" in make.html(taken)
    one, two = Stop.objects.order_by("label")
    assert (one.distance_m, two.method) == (50.0, "gps")
    assert two.distance_m == pytest.approx(180.0, abs=1.0)
    assert two.plus_minus_m == pytest.approx(5.0, abs=0.1)


def test_a_drive_is_cut_into_bins_and_read_by_them(owner_client, outing):
    file = read_log(outing, log_of(driving, 400))
    assert not Visit.objects.exists()
    bring(owner_client, outing, gpx(driving, 400))
    cut = page(owner_client, "tracks-cut", outing, frames="50", metres="")
    assert "cut into 4 bins" in make.html(cut)
    visits = Visit.objects.filter(rig__letter="A").order_by("stop__distance_m")
    assert [visit.sent for visit in visits] == [50, 50, 50, 50]
    first = visits[0].stop
    assert first.distance_m == pytest.approx(driving(49), abs=2.0)
    assert first.plus_minus_m > 80
    assert "moving at 1.5 m/s" in first.name
    again = page(owner_client, "tracks-cut", outing, frames="50", metres="")
    assert "has a timeline" in make.html(again)
    assert file.walk == outing


@pytest.mark.parametrize(("late_s", "words"), [(0, "agree with the clocks"), (70, "-70 s added")])
def test_clocks_are_compared_by_the_levels(owner_client, outing, late_s, words):
    def there_and_back(t):
        return driving(t if t < 300 else 600 - t)

    read_log(outing, log_of(there_and_back, 600))
    bring(owner_client, outing, gpx(there_and_back, 600, late_s))
    assert words in make.html(page(owner_client, "tracks-clocks", outing, go="1"))


def test_a_clock_is_set_and_a_track_removed(owner_client, outing):
    bring(owner_client, outing, gpx(driving, 100))
    track = Track.objects.get()
    address = reverse("walk:track-change", args=[outing.study_id, track.pk])
    owner_client.post(address, {"end": "fixed", "shift_s": "-1 min"})
    track.refresh_from_db()
    assert (track.end, track.shift_s) == ("fixed", -60.0)
    assert owner_client.post(address, {"end": "fixed", "shift_s": "late"}).status_code == 422
    owner_client.post(address, {"remove": "1"})
    assert not Track.objects.exists()


def test_positions_of_a_log_become_a_track(owner_client, outing):
    from inchmark.devices.simulator.dialects import position

    lines = []
    for t in range(0, 60, 2):
        place = place_at(driving(t))
        lines.append(position(place.lat_deg, place.lon_deg, BEGAN + t))
        lines.append(f"rx rig=A seq={t} rssi=-80 snr=4.5")
    file = read_log(outing, "\n".join(lines))
    owner_client.post(reverse("walk:track-from-log", args=[outing.study_id, file.pk]))
    track = Track.objects.get()
    assert (track.count, track.name) == (30, "positions of board.log")


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"<gpx", "no GPX file"),
        (gpx(driving, 2), "has 1 points"),
        (b"\x00\xff" * 50, "no GPX file"),
    ],
)
def test_a_track_that_is_none_gets_a_sentence(owner_client, outing, data, words):
    assert words in make.html(bring(owner_client, outing, data))
    assert not Track.objects.exists()


def test_what_is_missing_is_said(owner_client, outing):
    assert "Bring a track of the carried end first" in make.html(
        page(owner_client, "tracks", outing)
    )
    cut = page(owner_client, "tracks-cut", outing, frames="50", metres="")
    assert "No track of the carried end" in make.html(cut)
    both = page(owner_client, "tracks-cut", outing, frames="50", metres="50 m")
    assert "one of the two" in make.html(both)
    bring(owner_client, outing, gpx(driving, 100))
    assert "No point of the tracks lies in a stay" in make.html(
        page(owner_client, "tracks", outing)
    )
    Site.objects.update(lat=None, lon=None)
    assert "Where the fixed end stands is not said" in make.html(
        page(owner_client, "tracks", outing)
    )
    nothing = page(owner_client, "tracks-cut", outing, frames="50", metres="")
    assert "Where the fixed end stands" in make.html(nothing)


def test_a_track_elsewhen_does_not_cut(owner_client, outing):
    read_log(outing, log_of(driving, 100))
    bring(owner_client, outing, gpx(driving, 100, late_s=86_400 * 3))
    cut = page(owner_client, "tracks-cut", outing, frames="50", metres="")
    assert "does not overlap" in make.html(cut)


def test_the_strip_of_time_shows_positions_notes_and_photos(owner_client, study):
    walk = make.walk(study)
    begin = datetime(2026, 11, 14, 12, tzinfo=UTC)
    points = [Point(begin.timestamp() + i, 47.5, -21.0 + i / 1e5) for i in range(30)]
    add_track(walk, "way", points, end="carried", by=make.owner(study))
    note = {"kind": "note", "at": begin, "text": "a lorry"}
    keep_marks(walk, start="p", first=1, marks=[note], by=make.owner(study))
    keep_photo(walk, make.picture(), by=make.owner(study), text="the gate", at=begin)
    html = make.html(owner_client.get(reverse("walk:stays", args=[study.pk, walk.pk])))
    assert "positions, way" in html
    assert html.count("M") > 30
    assert "12:00:00 a lorry" in html
    assert "12:00:00 photo: the gate" in html
