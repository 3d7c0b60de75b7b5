"""The field day on its pages: files, terrain, paths, design, power, limits, run sheet."""

import datetime

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from inchmark.demo.services import marsh_terrain
from inchmark.plan.adapters.paths import profiles_of
from inchmark.plan.adapters.places import fixed_ends, targets_from
from inchmark.plan.adapters.predictions import best_predictions
from inchmark.plan.adapters.terrain import grid_for, grid_of
from inchmark.plan.figures.clock import day_of
from inchmark.plan.models import Design, Site, SiteMap, Stop, Terrain
from inchmark.plan.services import place_fixed_end, save_stop
from inchmark.plan.services.design import design_of, save_design, work_out_power
from inchmark.plan.services.maps import draw_map, queue_map
from inchmark.plan.services.terrain import keep_terrain
from inchmark.shelf.adapters.rigs import airtime_s
from inchmark.shelf.models import Module
from inchmark.shelf.services.parts import save_part
from inchmark.shelf.services.rigs import save_rig
from tests import make
from tests.formats.test_site_files import TRACK, WAYPOINTS

pytestmark = pytest.mark.django_db


@pytest.fixture
def site(study):
    """Coordinates for the fixed end, terrain around it, and a stop 950 m away."""
    place_fixed_end(study, Site(lat=47.5, lon=-21.0, ground_m=3.0, model="terrain"))
    keep_terrain(study, marsh_terrain().encode(), "marsh.asc")
    save_stop(study, Stop(label="8", lat=47.504528, lon=-20.9893))
    return study


def post(client, study, name, /, *args, **typed):
    return client.post(reverse(f"plan:{name}", args=[study.pk, *args]), typed, follow=True)


def upload(client, study, data, name, **typed):
    data = data if isinstance(data, bytes) else data.encode()
    return post(client, study, "stops-file", file=SimpleUploadedFile(name, data), **typed)


def test_waypoints_of_a_gpx_become_stops_numbered_on(owner_client, site):
    html = make.html(upload(owner_client, site, WAYPOINTS, "marsh.gpx"))
    assert "2 stops added" in html
    stop = site.stops.get(name="sluice")
    assert stop.label == "4"
    assert stop.distance_m == pytest.approx(111.2, abs=0.1)
    assert stop.method == "coordinates"


def test_a_track_needs_a_step_and_then_gives_stops(owner_client, site):
    html = upload(owner_client, site, TRACK, "marsh.gpx")
    assert html.status_code == 422
    assert "Say every how many metres" in make.html(html)
    upload(owner_client, site, TRACK, "marsh.gpx", every_m="200 m")
    assert site.stops.filter(label__gt="3").exists()


@pytest.mark.parametrize(
    ("data", "name", "words"),
    [
        (b"junk", "a.gpx", "no GPX"),
        (b'<gpx version="1.1" creator="x"></gpx>', "a.gpx", "holds no point"),
        (WAYPOINTS.replace('lat="47.501" lon="-21.0"', 'lat="0" lon="0"'), "a.gpx", "lies at 0, 0"),
    ],
)
def test_a_bad_places_file_gives_a_sentence(owner_client, site, data, name, words):
    before = site.stops.count()
    response = upload(owner_client, site, data, name)
    assert response.status_code == 422
    assert words in make.html(response)
    assert site.stops.count() == before


def test_places_need_the_fixed_end(owner_client, study):
    assert (
        "Place the fixed end first"
        in upload(owner_client, study, WAYPOINTS, "a.gpx").content.decode()
    )


def test_null_island_and_a_stop_on_the_fixed_end_are_refused(owner_client, site):
    for lat, lon, words in (
        ("0", "0", "sea off Africa"),
        ("47.5", "-21.0", "lies on the fixed end"),
    ):
        typed = {"label": "9", "lat": lat, "lon": lon, "distance_m": "100 m"}
        assert words in post(owner_client, site, "stop-add", **typed).content.decode()
    assert not site.stops.filter(label="9").exists()


def test_a_road_distance_that_disagrees_is_pointed_out(owner_client, site):
    save_stop(site, Stop(label="9", distance_m=1100.0, method="road", lat=47.504528, lon=-20.98931))
    html = make.html(owner_client.get(reverse("plan:stops", args=[site.pk])))
    assert "the typed one is longer by over 5 %" in html


def test_terrain_is_kept_replaced_and_taken_off(owner_client, site):
    assert grid_of(Terrain.objects.get()).height_m(47.5, -21.0) == pytest.approx(3.0, abs=0.3)
    file = SimpleUploadedFile("photo.tif", b"not terrain")
    response = post(owner_client, site, "terrain-add", **{"terrain-file": file})
    assert "no terrain grid" in make.html(response)
    assert Terrain.objects.get().name == "marsh.asc"
    post(owner_client, site, "terrain-remove")
    assert not Terrain.objects.exists()


def test_the_side_view_shows_the_ridge_and_what_it_costs(owner_client, site):
    stop = site.stops.get(label="8")
    html = make.html(owner_client.get(reverse("plan:path", args=[site.pk, stop.pk])))
    assert "side-view" in html
    assert "of the first zone" in html
    assert "by delta-Bullington" in html


def test_a_typed_profile_goes_before_the_terrain(owner_client, site):
    stop = site.stops.get(label="8")
    rows = "0 m, 3 m, open\n400 m, 3 m, trees\n950 m, 3 m, open"
    post(owner_client, site, "path", stop.pk, rows=rows)
    stop.refresh_from_db()
    fixed = fixed_ends(site.site, [])[0]
    ((distance, height),) = profiles_of(targets_from([stop], fixed), fixed, None)
    at = dict(zip(distance.tolist(), height.tolist(), strict=True))
    assert (at[0.0], at[400.0], at[950.0]) == (3, 15, 3)  # trees stand 12 m


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ("0 m, 3 m, open\n400 m, 3 m, open", "three rows or more"),
        ("5 m, 3 m, open\n400 m, 3 m, open\n900 m, 3 m, open", "begin with 0"),
        ("0 m, 3 m, open\n400 m, 3 m, lava\n900 m, 3 m, open", "“lava” is no cover"),
    ],
)
def test_a_wrong_profile_says_why(owner_client, site, rows, words):
    stop = site.stops.get(label="8")
    assert words in post(owner_client, site, "path", stop.pk, rows=rows).content.decode()


def test_predictions_use_the_terrain_where_it_reaches_and_say_where_not(site):
    rigs, ends = list(site.rigs.with_parts()), fixed_ends(site.site, [])
    rows = best_predictions(list(site.stops.all()), rigs, site.site, grid_for(site), ends)
    by_label = {row.stop.label: row for row in rows}
    assert by_label["8"].warnings == []
    assert "No terrain covers this path" in by_label["1"].warnings[0]  # typed distances only
    (name, _), *_ = by_label["8"].cells[0].path.parts
    assert name == "Free space and terrain"


def test_the_predicted_page_costs_a_fixed_number_of_queries(
    owner_client, site, django_assert_max_num_queries
):
    for letter in "BCD":
        make.rig(site, letter)
    with django_assert_max_num_queries(14):
        html = make.html(owner_client.get(reverse("plan:predicted", args=[site.pk])))
    assert "of frames" in html


DESIGN = {
    "kind": "reach",
    "frames": "60",
    "passes": "1",
    "shuffled": "on",
    "arrangement": "together",
    "starts_at": "09:00",
    "utc_offset_h": "0",
    "wanted_db": "2",
    "set_up_s": "2 min",
    "change_s": "1 min",
    "speed_m_s": "1.2",
}


def test_the_plan_says_what_would_settle_it_and_walks_itself(owner_client, site):
    site.needed_m = 100.0
    site.save()
    typed = DESIGN | {"rig": site.rigs.get().pk}
    html = make.html(post(owner_client, site, "design", **typed))
    assert "at the stop nearest 100 m is shown to be under 10 %" in html
    assert "None lost of 60 shows a loss under 5 %" in html
    assert "Nothing" not in html or "clean" in html.lower()
    work_out_power(site.design.pk)
    html = make.html(owner_client.get(reverse("plan:design", args=[site.pk])))
    assert "of 200 simulated walks settled it" in html
    one = Design.objects.get()
    assert one.power["studies"] == 200
    save_stop(site, Stop(label="12", distance_m=70.0))
    html = make.html(owner_client.get(reverse("plan:design", args=[site.pk])))
    assert "The study has changed since; walk it again" in html
    save_design(site, one)
    assert Design.objects.get().power == {}  # a changed plan is worked out anew


def test_a_question_without_what_it_needs_is_not_queued(owner_client, study):
    html = make.html(post(owner_client, study, "power"))
    assert "Reach needs a distance" in html
    post(owner_client, study, "design", **DESIGN | {"kind": "compare"})
    assert (
        "Choose the rig the question is about"
        in post(owner_client, study, "power").content.decode()
    )


def test_frames_follow_the_wished_intervals(owner_client, study):
    """1.96^2 x 0.1 x 0.9 / 0.05^2 = 138.3; (1.96 x 3 / 0.6)^2 = 96.04 (textbook)."""
    typed = DESIGN | {"loss_within": "0.05", "level_within_db": "0.6"}
    html = make.html(post(owner_client, study, "design", **typed))
    assert "139 frames" in html
    assert "97 frames" in html
    post(owner_client, study, "frames-take", wish="loss")
    assert Design.objects.get().frames == 139
    post(owner_client, study, "frames-take", wish="level")
    assert Design.objects.get().frames == 97


def test_other_radios_are_a_factor_of_the_design(owner_client, site):
    typed = DESIGN | {"ways": ["other radios on"], "own_ways": "on the  belt"}
    html = make.html(post(owner_client, site, "design", **typed))
    one = Design.objects.get()
    assert one.ways == ["other radios on", "on the belt"]
    stops = site.stops.count()
    assert f"{3 * stops} visits of 60 frames" in html
    assert "A (other radios on)" in html
    assert 'value="on the belt"' in html
    for page in ("day", "run-sheet"):
        assert "other radios on" in make.html(
            owner_client.get(reverse(f"plan:{page}", args=[site.pk]))
        )
    typed = DESIGN | {"own_ways": "a, b, c, d, e, f, g"}
    assert "7 ways are chosen; 6 are the most" in make.html(
        post(owner_client, site, "design", **typed)
    )
    assert len(Design.objects.get().ways) == 2


def test_days_and_people_are_told_and_timed_apart(owner_client, site):
    make.rig(site, "B")
    one = design_of(site)
    one.arrangement = "people"
    save_design(site, one)
    html = make.html(owner_client.get(reverse("plan:design", args=[site.pk])))
    assert "have a carrier each" in html
    assert "A and B send at once where their channels meet" in html
    rigs, stops = list(site.rigs.with_parts()), list(site.stops.all())
    at_once = day_of(one, rigs, stops, site.site)
    assert [outing.name for outing in at_once.outings] == ["Person 1", "Person 2"]
    one.arrangement, one.passes = "apart", 1
    apart = day_of(one, rigs, stops, site.site)
    assert apart.longest_s > 1.9 * at_once.longest_s
    html = make.html(owner_client.get(reverse("plan:day", args=[site.pk])))
    assert "2 people" in html
    html = make.html(owner_client.get(reverse("plan:run-sheet", args=[site.pk])))
    assert "Person 2" in html


def test_the_order_is_drawn_anew_from_a_shown_seed(owner_client, study):
    post(owner_client, study, "shuffle")
    html = make.html(owner_client.get(reverse("plan:design", args=[study.pk])))
    assert "seed 2" in html


def test_the_day_knows_the_light_and_the_way_back(owner_client, site):
    one = design_of(site)
    one.walked_on = datetime.date(2026, 11, 14)
    save_design(site, one)
    html = make.html(owner_client.get(reverse("plan:day", args=[site.pk])))
    assert "in the field, back at" in html
    assert "Sunrise 08:" in html  # 47.5 N 21 W in mid-November, UTC


def test_the_sub_band_sets_the_pace_unless_the_plan_says_why_not(owner_client, study):
    """868.0 to 868.6 MHz allows 1 % (EU row of the table): 100 times the time on air."""
    rig = study.rigs.get()
    rig.duty_cycle_percent, rig.frequency_hz = 10.0, 868.3e6
    save_rig(study, rig)
    one = save_design(study, design_of(study))
    rigs, stops = list(study.rigs.with_parts()), list(study.stops.all())
    day = day_of(one, rigs, stops, None)
    (_, interval, _), *_ = day.per_visit
    assert interval == pytest.approx(100 * airtime_s(rig))
    assert "868" in day.duties["A"].source
    one.exception = "conducted test"
    (_, interval, _), *_ = day_of(one, rigs, stops, None).per_visit
    assert interval == pytest.approx(10 * airtime_s(rig))
    html = make.html(owner_client.get(reverse("plan:day", args=[study.pk])))
    assert "1 % at most, 868" in html


def test_the_day_says_what_sending_draws(owner_client, site):
    """60 frames at every stop: SF7, 12 bytes, 12.25 + 28 symbols of 1.024 ms, at 38 mA."""
    module = save_part(site, Module(name="M", transmit_currents=[[14, 38e-3]]))
    rig = site.rigs.get()
    rig.module_part = module
    save_rig(site, rig)
    one, stops = design_of(site), list(site.stops.all())
    day = day_of(one, [site.rigs.with_parts().get()], stops, site.site)
    assert day.sending_c["A"] == pytest.approx(len(stops) * 60 * 40.25 * 1.024e-3 * 38e-3)


def test_a_place_picked_on_the_map_is_filled_in(owner_client, site):
    page = reverse("plan:stop-add", args=[site.pk])
    html = make.html(owner_client.get(page, {"lat": "47.501", "lon": "-20.99"}))
    assert 'value="47.501"' in html
    assert 'value="-20.99"' in html


def test_a_day_past_sunset_is_pointed_out(owner_client, site):
    one = design_of(site)
    one.walked_on, one.starts_at = datetime.date(2026, 11, 14), datetime.time(18, 0)
    save_design(site, one)
    html = make.html(owner_client.get(reverse("plan:day", args=[site.pk])))
    assert "ends after sunset" in html


def walk_add(client, study):
    page = reverse("walk:walk-add", args=[study.pk])
    return client.post(page, {"walked_on": "2026-11-14"}, follow=True)


def test_a_plan_over_a_limit_starts_only_with_a_reason(owner_client, study):
    rig = study.rigs.get()
    rig.power_dbm = 27.0
    save_rig(study, rig)
    one = save_design(study, design_of(study))
    response = walk_add(owner_client, study)
    assert response.status_code == 422
    assert "breaks every row of the limits" in make.html(response)
    one.exception = "conducted test in a shielded room"
    save_design(study, one)
    walk_add(owner_client, study)
    assert study.walks.count() == 1


def test_cautions_are_read_by_name_before_the_walk(owner_client, study):
    one = design_of(study)
    one.conditions = ["water"]
    save_design(study, one)
    assert "near water or tide" in walk_add(owner_client, study).content.decode()
    html = make.html(post(owner_client, study, "cautions-read", key="water", name=" "))
    assert "Write your name" in html
    html = make.html(post(owner_client, study, "cautions-read", key="water", name="Kim"))
    assert "Read by Kim" in html
    walk_add(owner_client, study)
    assert study.walks.count() == 1


def test_without_a_kept_plan_a_walk_starts_as_before(owner_client, study):
    walk_add(owner_client, study)
    assert study.walks.count() == 1


def test_the_run_sheet_holds_settings_visits_kit_and_the_way_to_the_walk(owner_client, site):
    response = owner_client.get(reverse("plan:run-sheet", args=[site.pk]))
    words = [
        "Read back before the first frame",
        "868.1",
        "Visits in order",
        "data:image/svg",
        "tape or rangefinder",
    ]
    assert make.missing(response, words) == []


@pytest.mark.parametrize("name", ["predicted", "design", "day", "run-sheet"])
def test_pages_of_an_empty_study_stand_and_strangers_get_404(client, name):
    study = make.study()
    client.force_login(make.owner(study))
    assert client.get(reverse(f"plan:{name}", args=[study.pk])).status_code == 200
    client.force_login(make.user())
    assert client.get(reverse(f"plan:{name}", args=[study.pk])).status_code == 404


def test_a_viewer_changes_no_plan(client, study):
    client.force_login(make.member(study))
    for name in ("power", "shuffle", "terrain-add", "terrain-remove", "cautions-read"):
        assert client.post(reverse(f"plan:{name}", args=[study.pk])).status_code == 404


def test_the_site_is_seen_from_above_with_its_terrain_and_a_rigs_bands(owner_client, site):
    rig = site.rigs.get()
    post(owner_client, site, "map-draw", rig.pk)
    drawn = SiteMap.objects.get()
    assert drawn.state == "waiting"
    draw_map(drawn.pk, size=24)
    drawn.refresh_from_db()
    assert (drawn.state, drawn.done) == ("done", 1.0)
    assert [band[:2] for band in drawn.bands] == [
        [0.0, 0.1],
        [0.1, 0.5],
        [0.5, 0.9],
        [0.9, 0.99],
        [0.99, 1.0],
    ]
    assert any(rings for _, _, rings in drawn.bands)
    html = make.html(owner_client.get(reverse("plan:map", args=[site.pk])))
    assert "map-data" in html
    assert "Frames of A expected" in html
    assert len(site.terrain.contours) > 3


def test_a_map_needs_a_place_and_terrain_where_that_is_the_law(owner_client, study):
    html = make.html(post(owner_client, study, "map-draw", study.rigs.get().pk))
    assert "Give the fixed end coordinates first." in html
    html = make.html(owner_client.get(reverse("plan:map", args=[study.pk])))
    assert "coordinates to see the site from above" in html
    place_fixed_end(study, Site(lat=47.5, lon=-21.0, model="terrain"))
    html = make.html(post(owner_client, study, "map-draw", study.rigs.get().pk))
    assert "Bring a terrain file first" in html


def test_terrain_taken_away_meanwhile_is_said(site):
    drawn = queue_map(site, site.rigs.get())
    Terrain.objects.all().delete()
    draw_map(drawn.pk, size=8)
    drawn.refresh_from_db()
    assert drawn.state == "failed"
    assert "taken away meanwhile" in drawn.problem


def test_a_dragged_stop_moves_and_its_distance_follows(owner_client, site):
    stop = site.stops.get(label="8")
    move = reverse("plan:stop-move", args=[site.pk, stop.pk])
    answer = owner_client.post(move, {"lat": "47.501", "lon": "-21.0"})
    assert answer.json()["distance_m"] == pytest.approx(111.2, abs=0.1)
    for lat, lon, words in (
        ("47.5", "-21.0", "lies on the fixed end"),
        ("0", "0", "off Africa"),
        ("x", "0", "no place on earth"),
    ):
        answer = owner_client.post(move, {"lat": lat, "lon": lon})
        assert answer.status_code == 422
        assert words in answer.json()["problem"]
    owner_client.force_login(make.member(site))
    assert owner_client.post(move, {"lat": "47.6", "lon": "-21.0"}).status_code == 404
