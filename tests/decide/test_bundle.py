"""A study carried as one zip: the same figures to the last digit elsewhere, and nothing hostile taken."""

import hashlib
import io
import json
import zipfile

import gpxpy
import pytest
from django.apps import apps
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import models
from django.urls import reverse

from inchmark.cli import main
from inchmark.core.gathering.way import Point
from inchmark.decide.services.bundles.carried import CARRIED, FRAMES, LEFT, fields_of
from inchmark.decide.services.bundles.into import take_bundle
from inchmark.decide.services.bundles.out import write_bundle
from inchmark.decide.services.bundles.shapes import SHAPES, check_shape
from inchmark.demo.services import load_demo
from inchmark.formats.errors import UnreadableFileError
from inchmark.learn.models import Practice
from inchmark.plan.models import Design, SiteWall
from inchmark.plan.services.features import keep_features
from inchmark.plan.services.walls import save_wall
from inchmark.read.services import make_reading
from inchmark.shelf.models import Centring, CloseRange
from inchmark.shelf.services.shelf_files import starter_shelf, take_in
from inchmark.studies.models import Study
from inchmark.walk.services.tracks import add_track
from tests import make

pytestmark = pytest.mark.django_db


def bundled(study) -> bytes:
    out = io.BytesIO()
    write_bundle(study, out)
    return out.getvalue()


def taken(data, by=None):
    return take_bundle(io.BytesIO(data), by or make.user())


def figures(study):
    """A reading without the numbers of rows, which are an installation's own."""
    data = json.dumps(
        make.reading(study),
        default=lambda one: one.__dict__ if hasattr(one, "__dict__") else _slots(one),
    )
    return _without(json.loads(data))


def _slots(one):
    return {name: getattr(one, name) for name in one.__slots__}


def _without(value):
    if isinstance(value, dict):
        return {k: _without(v) for k, v in value.items() if k not in ("ref", "refs")}
    return [_without(one) for one in value] if isinstance(value, list) else value


def test_every_kind_of_row_that_belongs_to_a_study_is_carried_or_left_for_a_reason():
    def leads(kind, seen=()):
        return any(
            field.related_model is Study or leads(field.related_model, (*seen, kind))
            for field in kind._meta.concrete_fields
            if field.is_relation and field.related_model not in (kind, *seen)
        )

    ours = {
        kind
        for kind in apps.get_models()
        if kind.__module__.startswith("inchmark.") and kind is not Study and leads(kind)
    }
    # a practice's hidden truth stays where it was walked
    assert ours - {*CARRIED, *LEFT, FRAMES, Practice} == set()
    assert all(reason for reason in LEFT.values())


def test_the_demo_read_anew_elsewhere_gives_the_same_figures_to_the_last_digit():
    marsh = load_demo(make.user("demo"))
    away = taken(bundled(marsh))
    make_reading(away.pk)
    assert figures(away) == figures(marsh)
    assert away.title == marsh.title
    for name in ("rigs", "stops", "points", "walks", "antenna_parts", "settings", "sweeps"):
        assert getattr(away, name).count() == getattr(marsh, name).count(), name


def test_what_is_carried_comes_back_byte_for_byte(walked):
    away = taken(bundled(walked))
    for ours, theirs in zip(
        walked.walks.get().files.order_by("pk"), away.walks.get().files.order_by("pk"), strict=True
    ):
        assert (ours.name, ours.sha256, ours.at) == (theirs.name, theirs.sha256, theirs.at)
        assert b"".join(bytes(c.data) for c in ours.chunks.all()) == b"".join(
            bytes(c.data) for c in theirs.chunks.all()
        )
    again, first = (zipfile.ZipFile(io.BytesIO(bundled(one))) for one in (away, walked))
    assert again.read("frames.csv") == first.read("frames.csv")
    assert {"stops.geojson", "places.geojson", "reading.json"} <= set(first.namelist())


def edited(data, change):
    """The bundle with its study.json changed and its manifest made to fit, as a forger would."""
    source = zipfile.ZipFile(io.BytesIO(data))
    parts = {name: source.read(name) for name in source.namelist()}
    study = json.loads(parts["study.json"])
    change(study)
    parts["study.json"] = json.dumps(study).encode()
    manifest = json.loads(parts.pop("manifest.json"))
    for part in manifest["parts"]:
        body = parts[part["name"]]
        part["size"], part["sha256"] = len(body), hashlib.sha256(body).hexdigest()
    parts["manifest.json"] = json.dumps(manifest).encode()
    return zipped(parts)


def zipped(parts):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, body in parts.items():
            archive.writestr(name, body)
    return out.getvalue()


def set_in(*path, to):
    def change(study):
        for key in path[:-1]:
            study = study[key]
        study[path[-1]] = to

    return change


ROWS = ("rows", "shelf.rig", 0)


FORGED = [
    (set_in(*ROWS, "study", to=1), "other fields"),
    (set_in(*ROWS, "module_part", to=99), "points at nothing"),
    (set_in(*ROWS, "antenna_gain_dbi", to="much"), "antenna_gain_dbi"),
    (set_in(*ROWS, "antenna_gain_dbi", to=[1]), "no single value"),
    (set_in(*ROWS, "letter", to="A" * 400), "shelf.rig 1"),
    (set_in(*ROWS, "pk", to=True), "its number is none"),
    (set_in("rows", "plan.stop", 0, "distance_m", to=-5), "do not hold together"),
    (set_in("rows", "walk.filechunk", 0, "data", to={"at": 7, "size": 9}), "follow each other"),
    (set_in("rows", "walk.filechunk", 0, "data", to={"at": 0, "size": 10**7}), "shorter"),
    (set_in("rows", "shelf.rig", to={}), "no list"),
    (set_in("rows", to={}), "kinds of rows"),
    (set_in("study", "needed_direction", to="up"), "up"),
    (set_in("study", "pk", to=1), "what the study asks"),
    (set_in("schema", to=9), "schema 9"),
    (set_in("frame_columns", to=[]), "other columns"),
    (set_in(*ROWS, "frequency_hz", to=1e400), "do not hold together|shelf.rig 1"),
    (
        set_in("rows", "shelf.module", 0, "sensitivities", to=[["SF7", "low", 10]]),
        "sensitivities 0.1",
    ),
    (set_in("rows", "shelf.module", 0, "recipe", to={"uses": 3}), "recipe"),
    (set_in("rows", "plan.stop", 0, "profile", to=[[0, 3, "jungle"]]), "profile 0.2"),
    (set_in("rows", "plan.sitewall", 0, "points", to=[[47.5, -21.0]]), "2 to 500 points"),
    (set_in("rows", "plan.sitewall", 0, "points", to=[]), "2 to 500 points|cannot be blank"),
    (set_in("rows", "plan.sitewall", 0, "points", to=[[95, 0], [0, 0]]), "points 0.0"),
    (set_in("rows", "plan.sitewall", 0, "kind", to="straw"), "straw"),
    (set_in("rows", "walk.framefile", 0, "said", to={"clock_s": "late"}), "said clock_s"),
]


def east_wall():
    line = [[47.4, -20.9], [47.6, -20.9]]
    return SiteWall(name="east", kind="brick", thickness_m=0.2, points=line)


def test_a_forged_bundle_is_refused_whole_with_what_is_wrong(walked):
    save_wall(walked, east_wall())
    take_in(walked, starter_shelf())
    studies, data = Study.objects.count(), bundled(walked)
    for change, said in FORGED:
        with pytest.raises(UnreadableFileError, match=said):
            taken(edited(data, change))
    assert Study.objects.count() == studies


def test_every_column_of_json_that_is_carried_has_a_shape():
    carried = {
        (kind, field.name)
        for kind in CARRIED
        for field in fields_of(kind)
        if isinstance(field, models.JSONField)
    }
    assert carried == set(SHAPES)


@pytest.mark.parametrize(
    ("kind", "name", "held"),
    [
        (CloseRange, "answers", {"receiver": {"answer": "better", "swapped": "u2", "gave_dbm": -41.5}}),
        (Centring, "done", {"middle": {"on": "2026-11-14", "by": "Kim", "sent": 60, "heard": 58}}),
        (Design, "power", {}),
        (Design, "power", {"studies": 200, "settled": 180, "share": 0.9, "low": 0.85, "high": 0.94, "revision": 7}),
        (Centring, "edges", []),
    ],
)  # fmt: skip
def test_what_the_rooms_write_into_a_column_is_taken_back(kind, name, held):
    check_shape(kind, name, held, "here")


def test_a_power_that_lacks_its_figures_is_refused():
    with pytest.raises(UnreadableFileError, match="power"):
        check_shape(Design, "power", {"studies": 200}, "here")


def test_walls_are_carried_as_rows_and_as_geojson_and_older_bundles_have_none(walked):
    save_wall(walked, east_wall())
    data = bundled(walked)
    (away,) = taken(data).walls.all()
    assert (away.name, away.kind, away.thickness_m, away.points) == (
        "east", "brick", 0.2, [[47.4, -20.9], [47.6, -20.9]]
    )  # fmt: skip
    geojson = zipfile.ZipFile(io.BytesIO(data)).read("walls.geojson")
    keep_features(walked, geojson, "walls.geojson")
    first, again = walked.walls.all()
    assert (first.kind, first.points) == (again.kind, again.points)

    def older(study):
        del study["rows"]["plan.sitewall"]

    assert not taken(edited(data, older)).walls.exists()


def test_a_track_goes_out_as_gpx_that_can_be_read_again(walked):
    points = [Point(1.7e9 + 10 * i, 47.5 + 1e-4 * i, -21.0, 1.2) for i in range(5)]
    add_track(walked.walks.get(), "way out", points, end="carried", by=make.owner(walked))
    archive = zipfile.ZipFile(io.BytesIO(bundled(walked)))
    (name,) = [one for one in archive.namelist() if one.endswith(".gpx")]
    found = gpxpy.parse(archive.read(name).decode()).tracks[0].segments[0].points
    assert [(one.latitude, one.time.timestamp()) for one in found] == [
        (pytest.approx(at.lat), at.time_s) for at in points
    ]


def test_the_kind_of_question_is_carried_and_a_bundle_of_before_it_was_asked_is_taken(walked):
    Study.objects.filter(pk=walked.pk).update(asks="edge")
    walked.refresh_from_db()
    data = bundled(walked)
    assert taken(data).asks == "edge"

    def older(study):
        del study["study"]["asks"]

    assert taken(edited(data, older)).asks == ""


def test_a_bundle_of_others_people_brings_no_rights(walked):
    stranger = make.user()
    away = taken(bundled(walked), stranger)
    assert [one.user for one in away.memberships.all()] == [stranger]
    assert {one.by for one in away.walks.get().files.all()} == {stranger}


def test_it_is_handed_out_and_taken_in_on_the_pages(reader, walked):
    got = reader.get(reverse("decide:bundle", args=[walked.pk]))
    data = b"".join(got.streaming_content)
    assert got["Content-Disposition"] == 'attachment; filename="a-study.inchmark.zip"'
    sent = reader.post(reverse("bring-bundle"), {"file": SimpleUploadedFile("x.zip", data)})
    away = Study.objects.latest("pk")
    assert sent.status_code == 302
    assert sent.url == reverse("read:reading", args=[away.pk])
    refused = reader.post(
        reverse("bring-bundle"), {"file": SimpleUploadedFile("x.zip", data[:-40])}
    )
    assert refused.status_code == 422
    assert "Not taken in: this is no bundle" in refused.content.decode()


def test_strangers_get_no_bundle(client, walked):
    client.force_login(make.user())
    assert client.get(reverse("decide:bundle", args=[walked.pk])).status_code == 404


def test_the_command_says_whether_a_bundle_is_whole(walked, tmp_path, capsys):
    path = tmp_path / "study.zip"
    path.write_bytes(bundled(walked))
    assert main(["bundle", "check", str(path)]) == 0
    assert "whole, and as it was made" in capsys.readouterr().out
    assert main(["bundle", "check", "--json", str(path)]) == 0
    assert json.loads(capsys.readouterr().out)["rows"]["shelf.rig"] == 2
    path.write_bytes(path.read_bytes()[: len(path.read_bytes()) // 2])
    assert main(["bundle", "check", str(path)]) == 2
    assert "no bundle" in capsys.readouterr().err
