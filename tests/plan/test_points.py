"""Needed places, further receivers, features and pictures of the map."""

import json

import pytest
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError
from django.urls import reverse

from inchmark.demo.services import marsh_terrain
from inchmark.formats.errors import UnreadableFileError
from inchmark.plan.adapters.places import fixed_ends
from inchmark.plan.adapters.predictions import best_predictions
from inchmark.plan.adapters.terrain import grid_for
from inchmark.plan.forms import FeaturesForm
from inchmark.plan.models import Site, SitePoint, Stop
from inchmark.plan.services import add_stops_file, place_fixed_end, save_stop
from inchmark.plan.services.features import keep_features, remove_features
from inchmark.plan.services.maps import draw_map, queue_map
from inchmark.plan.services.points import add_points_file, save_point
from inchmark.plan.services.terrain import keep_terrain
from inchmark.studies.models import Study
from tests import make
from tests.formats.test_site_files import WAYPOINTS

pytestmark = pytest.mark.django_db
DYKE = {
    "type": "Feature",
    "properties": {"name": "sea wall"},
    "geometry": {"type": "LineString", "coordinates": [[-21.0, 47.5], [-20.99, 47.505]]},
}


@pytest.fixture
def site(study):
    """A fixed end with terrain, a stop far off, a receiver beside that stop, a node there."""
    place_fixed_end(study, Site(lat=47.5, lon=-21.0, ground_m=3.0, model="terrain"))
    keep_terrain(study, marsh_terrain().encode(), "marsh.asc")
    save_stop(study, Stop(label="8", lat=47.504528, lon=-20.9893))
    save_point(
        study, SitePoint(kind="receiver", name="mast", lat=47.5040, lon=-20.9893, antenna_m=10.0)
    )
    save_point(study, SitePoint(kind="node", name="sluice 12", lat=47.5046, lon=-20.9890))
    return study


def post(client, study, name, /, *args, **typed):
    return client.post(reverse(f"plan:{name}", args=[study.pk, *args]), typed, follow=True)


def page(client, study, name, *args, **asked):
    return client.get(reverse(f"plan:{name}", args=[study.pk, *args]), asked).content.decode()


def test_places_are_labelled_on_their_own_and_listed_with_their_distance(owner_client, site):
    assert list(site.points.values_list("label", flat=True)) == ["N1", "R1"]
    html = page(owner_client, site, "stops")
    assert "sluice 12" in html
    assert "a further receiver" in html
    post(owner_client, site, "point-add", kind="node", lat="47.501", lon="-21.0", floors="0")
    point = site.points.get(label="N2")
    assert "111 m" in page(owner_client, site, "stops")
    post(
        owner_client,
        site,
        "point-edit",
        point.pk,
        kind="node",
        label="N2",
        lat="47.502",
        lon="-21.0",
        antenna_m="50 cm",
        cover="clutter",
        floors="0",
    )
    point.refresh_from_db()
    assert (point.antenna_m, point.cover) == (0.5, "clutter")
    post(owner_client, site, "point-remove", point.pk)
    assert not site.points.filter(label="N2").exists()


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"lat": "0", "lon": "0"}, "sea off Africa"),
        ({"lat": "47.5", "lon": "-21.0"}, "lies on the fixed end"),
        ({"lat": "95", "lon": "0"}, "from -90 to 90 degrees"),
        ({"label": "R1", "lat": "47.51", "lon": "-21"}, "a place of that label already"),
    ],
)
def test_a_wrong_place_says_why(owner_client, site, typed, words):
    html = post(owner_client, site, "point-add", **{"kind": "node", "floors": "0"} | typed)
    assert html.status_code == 422
    assert words in make.html(html)
    assert site.points.count() == 2


def test_the_database_refuses_a_place_off_the_globe(study):
    with pytest.raises(IntegrityError):
        SitePoint.objects.create(study=study, label="N1", lat=float("nan"), lon=0.0)


def test_each_place_is_heard_by_the_end_that_hears_most(site):
    ends, rigs = fixed_ends(site.site, list(site.points.all())), list(site.rigs.with_parts())
    stops = list(site.stops.all())
    best = {
        row.stop.label: row.cells[0]
        for row in best_predictions(stops, rigs, site.site, grid_for(site), ends)
    }
    assert best["8"].by.label == "R1"
    assert best["1"].by.main  # no coordinates, so no other end can be worked out
    alone = best_predictions(stops, rigs, site.site, grid_for(site), ends[:1])
    by_main = {row.stop.label: row.cells[0] for row in alone}
    assert best["8"].stop.expected_share >= by_main["8"].stop.expected_share
    assert best["8"].stop.level_dbm > by_main["8"].stop.level_dbm + 10  # 60 m instead of 950 m


def test_predicted_and_side_view_follow_the_chosen_end(owner_client, site):
    html = page(owner_client, site, "predicted")
    assert "whichever hears most" in html
    assert "by mast" in html
    assert "Needed places" in html
    html = page(owner_client, site, "predicted", by="R1")
    assert "58.7 m" in html
    node = site.points.get(label="N1")
    assert "sluice 12" in page(owner_client, site, "point-path", node.pk, by="R1")
    stop = site.stops.get(label="1")
    assert "No terrain covers this path" in page(owner_client, site, "path", stop.pk, by="R1")


def test_a_file_of_places_is_read_as_what_one_says(owner_client, site):
    file = SimpleUploadedFile("nodes.gpx", WAYPOINTS.encode())
    html = make.html(post(owner_client, site, "stops-file", kind="node", file=file))
    assert "2 places that need a node added" in html
    file = SimpleUploadedFile("nodes.gpx", WAYPOINTS.encode())
    html = make.html(post(owner_client, site, "stops-file", kind="node", file=file))
    assert "2 were known already" in html
    csv = SimpleUploadedFile("more.csv", b"stop,distance_m\nx,40\n")
    html = make.html(post(owner_client, site, "stops-file", kind="receiver", file=csv))
    assert "x: It has no coordinates" in html


def test_features_are_drawn_replaced_and_taken_off(owner_client, site):
    data = json.dumps({"type": "FeatureCollection", "features": [DYKE]}).encode()
    post(
        owner_client,
        site,
        "features-add",
        **{"features-file": SimpleUploadedFile("marsh.geojson", data)},
    )
    points = [[[47.5, -21.0], [47.505, -20.99]]]
    assert site.features.features == [["line", "sea wall", points, ""]]
    assert "sea wall" in page(owner_client, site, "map")
    bad = SimpleUploadedFile("photo.json", b"not json")
    answer = post(owner_client, site, "features-add", **{"features-file": bad})
    assert answer.status_code == 422
    assert "no GeoJSON" in make.html(answer)
    assert "marsh.geojson" in page(owner_client, site, "map")
    post(owner_client, site, "features-remove")
    assert "marsh.geojson" not in page(owner_client, site, "map")


def test_trees_between_cost_and_trees_around_an_end_are_left_to_the_woodland_model(site):
    wood = [[-20.996, 47.501], [-20.993, 47.501], [-20.993, 47.5035], [-20.996, 47.5035]]

    def levels():
        end = fixed_ends(site.site, [])[:1]
        stops, rigs = list(site.stops.filter(label="8")), list(site.rigs.with_parts())
        (row,) = best_predictions(stops, rigs, site.site, grid_for(site), end)
        return row.cells[0].stop.level_dbm

    def keep(ring, cover):
        area = {
            "type": "Feature",
            "properties": {"name": "carr", "cover": cover},
            "geometry": {"type": "Polygon", "coordinates": [[*ring, ring[0]]]},
        }
        keep_features(site, json.dumps(area).encode(), "carr.geojson")

    open_ground = levels()
    keep(wood, "trees")
    assert levels() < open_ground - 5
    keep(wood, "reeds")
    assert open_ground >= levels() > open_ground - 5
    keep([[lon + 0.006, lat + 0.002] for lon, lat in wood], "trees")  # the stop stands inside
    assert levels() == pytest.approx(open_ground)
    remove_features(site)
    assert levels() == pytest.approx(open_ground)


def test_a_file_too_large_is_refused_before_it_is_read(owner_client, site, monkeypatch):
    monkeypatch.setattr(FeaturesForm.base_fields["file"], "most_mb", 0)
    file = SimpleUploadedFile("all.geojson", json.dumps(DYKE).encode())
    answer = post(owner_client, site, "features-add", **{"features-file": file})
    assert answer.status_code == 422
    assert "all.geojson is over 0 MB" in make.html(answer)


def test_the_map_shows_places_with_the_share_expected_and_lets_them_move(owner_client, site):
    html = page(owner_client, site, "map")
    assert '"N1": [' in html
    assert "heard best by" in html
    node = site.points.get(label="N1")
    move = reverse("plan:point-move", args=[site.pk, node.pk])
    answer = owner_client.post(move, {"lat": "47.501", "lon": "-21.0"})
    assert answer.json()["distance_m"] == pytest.approx(111.2, abs=0.1)
    answer = owner_client.post(move, {"lat": "47.5", "lon": "-21.0"})
    assert "lies on the fixed end" in answer.json()["problem"]
    owner_client.force_login(make.member(site))
    assert owner_client.post(move, {"lat": "47.6", "lon": "-21.0"}).status_code == 404
    assert post(owner_client, site, "features-remove").status_code == 404


def test_while_a_map_is_drawn_its_state_alone_is_sent(owner_client, site):
    address = reverse("plan:map", args=[site.pk])
    part = make.html(owner_client.get(address, headers={"hx-request": "true"}))
    assert "map-state" in part
    assert "map-data" not in part
    restored = {"hx-request": "true", "hx-history-restore-request": "true"}
    assert "map-data" in owner_client.get(address, headers=restored).content.decode()


def test_a_map_with_a_further_receiver_expects_no_less_anywhere(site):
    site.rigs.update(
        power_dbm=-20.0, fixed_power_dbm=-20.0, sensitivity_dbm=-90.0, sensitivity_per_percent=50.0
    )
    drawn = queue_map(site, site.rigs.get())
    draw_map(drawn.pk, size=16)
    drawn.refresh_from_db()
    both = sum(len(ring) for ring in drawn.bands[0][2])  # where next to nothing is heard
    site.points.filter(kind="receiver").delete()
    alone = queue_map(site, site.rigs.get())
    draw_map(alone.pk, size=16)
    alone.refresh_from_db()
    assert (drawn.state, alone.state) == ("done", "done")
    hole = both - sum(len(ring) for ring in alone.bands[0][2])
    assert hole == 1  # around the receiver


def test_pictures_come_from_the_sites_own_server_and_from_no_other(owner_client, site):
    policy = owner_client.get(reverse("plan:map", args=[site.pk]))["Content-Security-Policy"]
    assert "tiles.example" not in policy
    place = site.site
    place.tiles_url = "https://tiles.example:8443/{z}/{x}/{y}.png"
    place_fixed_end(site, place)
    policy = owner_client.get(reverse("plan:map", args=[site.pk]))["Content-Security-Policy"]
    assert "img-src 'self' data: https://tiles.example:8443;" in policy + ";"
    policy = owner_client.get(reverse("plan:stops", args=[site.pk]))["Content-Security-Policy"]
    assert "tiles.example" not in policy
    for wrong in ("javascript:alert(1)", "https://a.example;script-src *", "//x/{z}"):
        place.tiles_url = wrong
        with pytest.raises(ValidationError, match="an address like"):
            place_fixed_end(site, place)


def test_heights_of_the_grounds_join_the_distance_between_coordinates(study):
    """111.18 m along and 40 m up are 118.16 m through the air."""
    place_fixed_end(study, Site(lat=47.5, lon=-21.0, ground_m=3.0))
    stop = make.stop(study, "3", None, lat=47.501, lon=-21.0, height_m=43.0)
    assert stop.distance_m == pytest.approx(118.16, abs=0.02)


def many(rows, of="stop"):
    lines = [f"{i},{47.5 + i * 1e-4:.6f},-21" for i in range(rows)]
    return ("stop,lat,lon\n" + "\n".join(lines)).encode()


def test_thousands_of_places_cost_a_few_queries(site, django_assert_max_num_queries):
    before = site.points.count()
    with django_assert_max_num_queries(20):
        found = add_points_file(site, many(3000), "n.csv", "node")
    assert found.added == 2999  # the first lies on the fixed end
    labels = list(site.points.values_list("label", flat=True))
    assert len(labels) == len(set(labels)) == before + 2999


def test_hundreds_of_stops_cost_a_few_queries_and_one_revision(site, django_assert_max_num_queries):
    before = Study.objects.get(pk=site.pk).revision
    with django_assert_max_num_queries(15):
        found = add_stops_file(site, many(900))
    assert found.added + found.known == 899
    assert Study.objects.get(pk=site.pk).revision == before + 1


def test_more_lines_or_stops_than_a_study_holds_are_refused_with_how_many(site):
    stops = site.stops.count()
    with pytest.raises(UnreadableFileError, match="6000 lines; 5000 are read at most"):
        add_stops_file(site, many(6000))
    with pytest.raises(ValidationError, match="1000 stops at most"):
        add_stops_file(site, many(1200))
    assert site.stops.count() == stops
