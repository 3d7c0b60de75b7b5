"""Walls in the plan: typed, drawn, brought, counted on paths and on a map without terrain."""

import json

import pytest
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, transaction
from django.urls import reverse

from inchmark.core.propagation.walls import KINDS
from inchmark.demo.services import marsh_terrain
from inchmark.formats.errors import UnreadableFileError
from inchmark.plan.adapters.paths import law_words, surroundings_of
from inchmark.plan.adapters.places import fixed_ends
from inchmark.plan.adapters.predictions import best_predictions
from inchmark.plan.models import Site, SiteFeatures, SitePoint, SiteWall, Stop
from inchmark.plan.services import place_fixed_end, save_stop, site_of
from inchmark.plan.services.features import keep_features, remove_features
from inchmark.plan.services.maps import draw_map, queue_map
from inchmark.plan.services.points import save_point
from inchmark.plan.services.terrain import keep_terrain
from inchmark.plan.services.walls import save_wall
from tests import make

pytestmark = pytest.mark.django_db
EAST = [[47.4999, -20.9999], [47.5001, -20.9999]]  # 7.5 m east of the fixed end, 22 m long


def feature(kind, properties, coordinates):
    geometry = {"type": kind, "coordinates": coordinates}
    return {"type": "Feature", "properties": properties, "geometry": geometry}


def geojson(*features):
    return json.dumps({"type": "FeatureCollection", "features": features}).encode()


LINE = [[lon, lat] for lat, lon in EAST]


@pytest.fixture
def house(study):
    """A fixed end inside, a stop behind the place of a wall, a node beside it, and a stop by tape."""
    study.stops.all().delete()
    place_fixed_end(study, Site(lat=47.5, lon=-21.0, model="indoor", shadowing_db=4.0))
    save_stop(study, Stop(label="1", lat=47.5, lon=-20.9998))
    save_stop(study, Stop(label="2", distance_m=12.0))
    save_point(study, SitePoint(kind="node", name="attic", lat=47.50001, lon=-20.9997))
    return study


def post(client, study, name, /, *args, **typed):
    return client.post(reverse(f"plan:{name}", args=[study.pk, *args]), typed, follow=True)


def page(client, study, name, *args, **asked):
    return client.get(reverse(f"plan:{name}", args=[study.pk, *args]), asked).content.decode()


def cells(study):
    site = site_of(study)
    ones = [*study.stops.order_by("label"), *study.points.all()]
    found = best_predictions(ones, list(study.rigs.with_parts()), site, None, fixed_ends(site, []))
    return {row.stop.label: row.cells[0].path for row in found}


def test_kinds_are_those_the_core_knows_with_its_words():
    assert {name: kind.words for name, kind in KINDS.items()} == dict(SiteWall.KINDS)


def test_a_wall_is_typed_in_metres_from_the_fixed_end_and_counts_on_what_crosses_it(
    owner_client, house
):
    before = cells(house)
    answer = post(
        owner_client, house, "wall-add",
        name="east", kind="heavy", line="7.5 m, -11 m\n7.5 m, 11 m",
    )  # fmt: skip
    wall = house.walls.get()
    assert wall.points[0] == pytest.approx([47.499901, -20.9999005], abs=2e-6)
    for words in ("east", "22 m", "6.9", "COST 231"):
        assert words in make.html(answer)
    after = cells(house)
    assert [name for name, _ in after["1"].parts] == ["Free space and floors", "1 wall (east)"]
    assert after["1"].parts[1][1] == pytest.approx(6.9)
    assert after["N1"].parts[1][0] == "1 wall (east)"
    # a stop by tape lies nowhere: predicted as before, and that is said
    assert after["2"].loss_db == before["2"].loss_db
    assert "none is counted on it" in " ".join(after["2"].warnings)
    assert "1 wall (east)" in page(owner_client, house, "path", house.stops.get(label="1").pk)


def test_a_wall_is_shown_as_typed_changed_and_removed_with_a_way_back(owner_client, house):
    wall = save_wall(house, SiteWall(name="east", kind="brick", thickness_m=0.12, points=EAST))
    revision = type(house).objects.get(pk=house.pk).revision
    html = page(owner_client, house, "wall-edit", wall.pk)
    assert "47.4999, -20.9999" in html
    assert "0.12 m" in html
    post(
        owner_client, house, "wall-edit", wall.pk,
        name="east", kind="brick", thickness_m="24 cm", line="47.4999, -20.9999; 47.5001, -20.9999",
    )  # fmt: skip
    wall.refresh_from_db()
    assert wall.thickness_m == pytest.approx(0.24)
    assert type(house).objects.get(pk=house.pk).revision > revision
    answer = post(owner_client, house, "wall-remove", wall.pk)
    assert not house.walls.exists()
    assert "Undo" in answer.content.decode()
    owner_client.post(reverse("studies:put-back", args=[house.pk, house.removed.get().pk]))
    assert house.walls.get().name == "east"


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"line": "47.5, -21.0"}, "2 to 500 points"),
        ({"line": "hello"}, "Line 1"),
        ({"line": "47.5, -21.0\n147.5, -21.0"}, "Line 2: 147.5, -21 lies off the globe."),
        ({"line": "1 m, 2 m\n3 m, 4 kg"}, "Line 2"),
        ({"line": "1 m, 2 m\n900 km, 0 m"}, "no part of this site"),
        ({"kind": "typed"}, "Type what one crossing costs"),
        ({"thickness_m": "9 m"}, "from 0.0005 to 3 m"),
        ({"loss_db": "-4"}, "from 0 to 100 dB"),
        ({"line": "1 m, 2 m\n" * 501}, "501 points are typed"),
    ],
)
def test_what_is_no_wall_gets_a_sentence(owner_client, house, typed, words):
    good = {"kind": "light", "line": "7.5 m, -11 m\n7.5 m, 11 m"}
    answer = post(owner_client, house, "wall-add", **(good | typed))
    assert answer.status_code == 422
    assert words in make.html(answer)
    assert not house.walls.exists()


def test_metres_want_a_fixed_end_to_count_from(owner_client, study):
    answer = post(owner_client, study, "wall-add", kind="light", line="1 m, 2 m\n3 m, 4 m")
    assert "which has no coordinates yet" in make.html(answer)
    post(owner_client, study, "wall-add", kind="light", line="47.5, -21\n47.5, -20.9")
    assert study.walls.count() == 1  # known before the fixed end is


def test_a_wall_drawn_on_the_map_comes_with_its_points(owner_client, house):
    html = page(owner_client, house, "wall-add", points="47.5,-21.0;47.6,-21.1")
    assert "47.5,-21.0\n47.6,-21.1" in html


def test_the_database_holds_what_the_form_asks(house):
    save_wall(house, SiteWall(kind="light", points=EAST))
    with pytest.raises(IntegrityError), transaction.atomic():
        SiteWall.objects.update(kind="typed")
    with pytest.raises(IntegrityError), transaction.atomic():
        SiteWall.objects.update(thickness_m=float("nan"))


@pytest.mark.parametrize(
    "points", [None, [], "47, 21", [[47.5, -21.0]], [[47.5], [47.6]], [[95.0, 0.0], [0.0, 0.0]]]
)
def test_points_that_are_no_line_are_refused_wherever_they_come_from(house, points):
    with pytest.raises(ValidationError):
        save_wall(house, SiteWall(kind="light", points=points))


def test_walls_have_an_end(house, monkeypatch):
    monkeypatch.setattr("inchmark.plan.services.walls.MOST_SEGMENTS", 2)
    first = save_wall(house, SiteWall(kind="light", points=[*EAST, [47.5001, -21.0]]))
    save_wall(house, first)  # itself is not counted twice
    with pytest.raises(ValidationError, match="2 straight pieces at most"):
        save_wall(house, SiteWall(kind="light", points=EAST))


def test_walls_come_with_the_features_and_go_with_them(owner_client, house):
    save_wall(house, SiteWall(name="typed by hand", kind="light", points=EAST))
    room = [[*LINE, [-20.9998, 47.5001], LINE[0]]]
    data = geojson(
        feature("LineString", {"name": "east", "wall": "Concrete", "thickness_m": 0.2}, LINE),
        feature("Polygon", {"name": "cellar", "loss_db": 12}, room),
        feature("LineString", {"name": "path"}, LINE),
    )
    file = SimpleUploadedFile("house.geojson", data)
    answer = post(owner_client, house, "features-add", **{"features-file": file})
    assert "house.geojson: 1 feature" in make.html(answer)
    kept = {one.name: (one.kind, one.thickness_m, one.loss_db, one.from_file) for one in house.walls.all()}  # fmt: skip
    assert kept == {
        "typed by hand": ("light", None, None, False),
        "east": ("concrete", 0.2, None, True),
        "cellar": ("typed", None, 12.0, True),
    }
    assert [one[1] for one in SiteFeatures.objects.get(study=house).features] == ["path"]
    keep_features(house, geojson(feature("LineString", {"wall": "light"}, LINE)), "b.geojson")
    assert house.walls.count() == 2
    remove_features(house)
    assert house.walls.get().name == "typed by hand"


@pytest.mark.parametrize(
    ("properties", "words"),
    [
        ({"wall": "straw"}, "“straw” is nothing a wall is known to be made of"),
        ({"wall": "brick", "thickness_m": "thick"}, "“thick” is no thickness_m"),
        ({"loss_db": 900}, "“900” is no loss_db"),
        ({"loss_db": True}, "“True” is no loss_db"),
    ],
)
def test_a_wall_of_a_file_that_cannot_be_gets_a_sentence(house, properties, words):
    with pytest.raises(UnreadableFileError, match=words):
        keep_features(house, geojson(feature("LineString", properties, LINE)), "a.geojson")
    assert not house.walls.exists()


@pytest.mark.parametrize(
    ("site", "words"),
    [
        ({"model": "log_distance"}, "an exponent of 3.1 from 1 m on and 1 wall drawn"),
        ({"model": "free_space"}, "free space and 1 wall drawn"),
        ({"model": "two_ray"}, "two rays over flat ground and 1 wall drawn"),
        ({"model": "indoor"}, "free space and 1 wall drawn"),
    ],
)
def test_a_map_is_drawn_without_terrain_by_the_law_of_the_site(owner_client, house, site, words):
    rig = house.rigs.get()
    Site.objects.filter(study=house).update(**site)
    save_wall(house, SiteWall(kind="typed", loss_db=60.0, points=EAST))
    drawn = queue_map(house, rig)
    draw_map(drawn.pk, size=32)
    drawn.refresh_from_db()
    assert (drawn.state, drawn.words) == ("done", words)
    assert any(rings for _, _, rings in drawn.bands)
    html = page(owner_client, house, "map", rig=rig.letter)
    assert words in make.html(owner_client.get(reverse("plan:map", args=[house.pk])))
    assert '"walls": [["loss typed"' in html


def test_a_map_of_a_lone_fixed_end_shows_what_lies_around_it(study):
    place_fixed_end(study, Site(lat=47.5, lon=-21.0))
    drawn = queue_map(study, study.rigs.get())
    draw_map(drawn.pk, size=16)
    drawn.refresh_from_db()
    lats = [
        at[0] for _, _, shapes in drawn.bands for rings in shapes for ring in rings for at in ring
    ]
    assert max(lats) - min(lats) == pytest.approx(1.7 * 1000 / 111_200, rel=0.02)


def test_terrain_that_no_path_is_predicted_over_is_said_on_the_map(owner_client, house):
    keep_terrain(house, marsh_terrain().encode(), "marsh.asc")
    assert "paths are not predicted over it" in make.html(
        owner_client.get(reverse("plan:map", args=[house.pk]))
    )
    Site.objects.filter(study=house).update(model="terrain")
    assert "not predicted over it" not in page(owner_client, house, "map")


def test_the_usual_law_of_a_building_is_named_without_walls(house):
    assert law_words(surroundings_of(site_of(house))) == "P.1238 inside offices"


def test_others_keep_their_hands_off(house, client):
    wall = save_wall(house, SiteWall(kind="light", points=EAST))
    client.force_login(make.member(house))  # who only looks
    for name in ("wall-edit", "wall-remove"):
        answer = client.post(reverse(f"plan:{name}", args=[house.pk, wall.pk]))
        assert answer.status_code in (403, 404)
    assert house.walls.count() == 1
