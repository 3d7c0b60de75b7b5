"""Stops and the fixed end: typed distances, coordinates, files."""

import math

import pytest
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, transaction
from django.urls import reverse

from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.plan import services
from inchmark.plan.adapters.paths import link_of
from inchmark.plan.figures.stops import predicted_range
from inchmark.plan.models import Site, Stop
from tests import make

pytestmark = pytest.mark.django_db
FIXED = {"fixed_name": "pump house", "lat": 47.5, "lon": -21.0}


def test_a_stop_is_typed_with_its_unit_method_and_doubt(owner_client, study):
    owner_client.post(
        reverse("plan:stop-add", args=[study.pk]),
        {"label": "3", "distance_m": "0.48 km", "plus_minus_m": "3 m", "method": "rangefinder"},
    )
    stop = study.stops.get(label="3")
    assert (stop.distance_m, stop.plus_minus_m, stop.method) == (480, 3, "rangefinder")


def test_a_stop_with_coordinates_is_measured(study):
    services.place_fixed_end(study, Site(**FIXED))
    stop = make.stop(study, "3", None, lat=47.501, lon=-21.0)
    assert stop.distance_m == pytest.approx(111.18, abs=0.01)
    assert stop.method == "coordinates"


def test_moving_the_fixed_end_moves_measured_stops_only(study):
    site = services.place_fixed_end(study, Site(**FIXED))
    make.stop(study, "3", None, lat=47.501, lon=-21.0)
    site.lat = 47.499
    services.place_fixed_end(study, site)
    assert study.stops.get(label="3").distance_m == pytest.approx(222.36, abs=0.02)
    assert study.stops.get(label="1").distance_m == 50


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"label": "3"}, "Type a distance, or give coordinates"),
        ({"label": "3", "lat": "47.5", "lon": "-21"}, "The stop lies on the fixed end"),
        ({"label": "1", "distance_m": "80"}, "has a stop of that name already"),
        ({"label": "3", "distance_m": "0"}, "from 0.1 to 1,000,000 m"),
        ({"label": "3", "distance_m": "80", "lat": "99", "lon": "0"}, "from -90 to 90 degrees"),
        ({"label": "3", "distance_m": "eighty"}, "is not a quantity in metres"),
    ],
)
def test_a_wrong_stop_is_not_kept(owner_client, study, typed, words):
    services.place_fixed_end(study, Site(**FIXED))
    if "lat" not in typed:
        Site.objects.filter(study=study).delete()
    response = owner_client.post(reverse("plan:stop-add", args=[study.pk]), typed)
    assert response.status_code == 422
    assert words in make.html(response)
    assert study.stops.count() == 2


def test_half_a_coordinate_is_refused(owner_client, study):
    response = owner_client.post(reverse("plan:site-edit", args=[study.pk]), {"lat": "47.5"})
    assert response.status_code == 422
    assert "Give both latitude and longitude" in make.html(response)


@pytest.mark.parametrize("metres", [float("nan"), 0.0, 2e6])
def test_the_database_refuses_distances_that_are_none(study, metres):
    with pytest.raises(IntegrityError), transaction.atomic():
        Stop.objects.filter(study=study).update(distance_m=metres)


def upload(client, study, data):
    file = SimpleUploadedFile("stops.csv", data)
    page = reverse("plan:stops-file", args=[study.pk])
    return client.post(page, {"file": file}, follow=True)


def test_a_stops_file_adds_new_stops_and_leaves_known_ones(owner_client, study):
    data = b"stop,distance_m,method\n1,999,tape\n3,200,tape\n4,x,tape\n5,400,by eye\n"
    page = make.html(upload(owner_client, study, data))
    assert "2 stops added. 1 were known already" in page
    assert "Line 4: distance_m is “x”, which is not a number." in page
    assert study.stops.get(label="1").distance_m == 50
    assert study.stops.get(label="5").method == ""


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"PK\x03\x04zip", "a zip archive"),
        (b"rig,stop,seq\nA,1,1\n", "needs stop and distance_m"),
        (b"stop,distance_m\n" + b"x" * 1_100_000, "Is this the frame log?"),
        (b"", "The submitted file is empty"),
    ],
)
def test_what_is_no_stops_file_gets_a_sentence(owner_client, study, data, words):
    response = upload(owner_client, study, data)
    assert response.status_code == 422
    assert words in make.html(response)


def test_a_stop_with_frames_stays(study):
    make.log(make.walk(study), make.frames_log())
    with pytest.raises(ValidationError, match="Stop 1 has frames, so it stays"):
        services.remove_stop(study.stops.get(label="1"))
    services.remove_stop(study.stops.get(label="2"))
    assert study.stops.count() == 1


def test_the_plan_page_shows_measured_beside_typed_and_what_is_expected(owner_client, study):
    services.place_fixed_end(study, Site(**FIXED))
    make.stop(study, "3", 150.0, method="road", lat=47.501, lon=-21.0)
    page = make.html(owner_client.get(reverse("plan:stops", args=[study.pk])))
    assert "150 m" in page
    assert "111 m" in page
    assert "a path exponent from 1 m on" in page
    assert "paths lose 6.0 dB more" in page


def test_the_plan_page_costs_a_fixed_number_of_queries(
    owner_client, study, django_assert_max_num_queries
):
    Stop.objects.bulk_create(
        Stop(study=study, label=f"s{i}", distance_m=100 + i) for i in range(200)
    )
    with django_assert_max_num_queries(14):
        owner_client.get(reverse("plan:stops", args=[study.pk]))


def test_more_power_or_gain_is_predicted_to_reach_farther(study):
    weak, strong = study.rigs.get(), make.rig(study, "B", power_dbm=20)
    for model in ("log_distance", "two_ray", "free_space", "terrain", "indoor"):
        site = Site(model=model)
        one, other = (predicted_range(study, rig, site) for rig in (weak, strong))
        assert one.low_m < one.middle_m < one.high_m
        assert other.middle_m > one.middle_m


def test_the_expected_reach_is_where_the_rule_just_holds(study):
    """Free space, 9 of 10 places losing 1 frame of 10: 1.2816 x (3.231 + 6) dB over the threshold."""
    rig, site = study.rigs.get(), Site(model="free_space", shadowing_db=6.0)
    reach = predicted_range(study, rig, site)
    allowed = link_of(rig).allowed_path_loss_db - 1.2816 * 9.231
    assert float(free_space_loss_db(reach.middle_m, rig.frequency_hz)) == pytest.approx(
        allowed, abs=0.01
    )
    assert 20 * math.log10(reach.high_m / reach.middle_m) == pytest.approx(6, abs=0.02)
    study.places_share = 0.5
    typical = predicted_range(study, rig, site)
    assert 20 * math.log10(typical.middle_m / reach.middle_m) == pytest.approx(7.69, abs=0.02)
