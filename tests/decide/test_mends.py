"""What mends a weak place: shown with its price and its law, tried on the page, drawn on the map."""

import pytest
from django.urls import reverse

from inchmark.decide.services.ground import basis_for, changes_of
from inchmark.plan.models import Site, SitePoint
from inchmark.plan.services import place_fixed_end
from inchmark.plan.services.points import save_point
from inchmark.read.services import make_reading
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.shelf.services.shelf_files import starter_shelf, take_in
from inchmark.studies import memory
from inchmark.studies.models import Study
from tests import make

pytestmark = pytest.mark.django_db
M_PER_DEG = 111_178.0


@pytest.fixture
def gated(walked):
    """The walked study with gates to the north, near and too far."""
    place_fixed_end(walked, Site(fixed_name="mast", lat=47.0, lon=-22.0))
    for metres in (120, 260, 700, 900):
        node = SitePoint(kind=SitePoint.NODE, name="gate", lat=47.0 + metres / M_PER_DEG, lon=-22.0)
        save_point(walked, node)
    take_in(walked, starter_shelf())
    make_reading(walked.pk)
    return walked


def places(client, study, query=""):
    return make.html(client.get(reverse("decide:places", args=[study.pk]) + query))


def test_the_weakest_place_is_looked_at_and_ways_to_mend_it_stand_cheapest_first(reader, gated):
    html = places(reader, gated, "?rig=A")
    assert "What would mend N4, gate" in html
    assert "over flat ground, two rays" in html
    assert "mast of the fixed end" in html
    assert "a second receiver at" in html
    assert "Receivers worth adding" in html
    first = html.split("What would mend N4")[1].split("<tbody>")[1].split("</tr>")[0]
    assert "✓" in first  # what holds goes first


def test_a_taller_mast_and_a_receiver_are_tried_from_the_address(reader, gated):
    basis = basis_for(gated, gated.rigs.get(letter="A"))
    before = basis.now.chances[3]
    near = f"{47.0 + 880 / M_PER_DEG:.6f},-22.0"
    html = places(reader, gated, f"?rig=A&mast=12&rx={near}&place=N4")
    assert "as tried" in html
    assert "Won:" in html
    assert "N4" in html.split("Won:")[1].split(".")[0]
    assert before < 0.7


def test_what_cannot_be_tried_is_said_and_nothing_breaks(reader, gated):
    assert "A mast is between 0.3 and 300 m high." in places(reader, gated, "?rig=A&mast=900")
    html = places(reader, gated, "?rig=A&rx=somewhere&fixed=99,0&mast=tall")
    assert "is no place" in html
    assert "Not tried." in html
    assert "as tried" not in html


def test_the_map_is_banded_by_chance_and_follows_what_is_tried(reader, gated):
    address = reverse("decide:places-map", args=[gated.pk])
    plain = reader.get(f"{address}?rig=A").json()["bands"]
    tried = reader.get(f"{address}?rig=A&rx=47.006,-22.0").json()["bands"]
    assert [band[0] for band in plain] == [0.0, 0.1, 0.5, 0.9, 0.99]
    assert plain != tried


def test_without_draws_the_page_says_what_it_takes(reader, study, walked):
    walked.points.all().delete()
    assert "It takes a walk that tells a slope" in places(reader, walked)
    assert reader.get(reverse("decide:places-map", args=[walked.pk])).json() == {"bands": []}


def test_places_changed_since_the_reading_wait_for_it(reader, gated):
    node = SitePoint(kind=SitePoint.NODE, name="late", lat=47.001, lon=-22.0)
    save_point(gated, node)
    assert basis_for(gated, gated.rigs.get(letter="A")) is None
    assert "It takes a walk" in places(reader, gated)


def test_changes_stay_within_the_limits_or_say_that_they_do_not(gated):
    rig = gated.rigs.get(letter="A")
    found = changes_of(gated, rig)
    assert "fixed antenna" in {one.kind for one in found}
    assert all(one.gain_db >= 0.5 for one in found)
    assert all(one.why for one in found if not one.allowed)


def test_strangers_see_no_places(client, gated):
    client.force_login(make.user())
    assert client.get(reverse("decide:places", args=[gated.pk])).status_code == 404
    assert client.get(reverse("decide:places-map", args=[gated.pk])).status_code == 404


def test_what_the_count_hangs_on_stands_with_what_would_narrow_it(reader, gated):
    html = places(reader, gated, "?rig=A")
    table = html.split("What the count hangs on")[1]
    assert "Level over threshold" in table
    assert "Noise at the fixed end" in table
    assert "what would narrow it" in table


def test_the_pace_of_a_field_day_is_not_taken_for_the_pace_of_the_nodes(reader, gated):
    before = basis_for(gated, gated.rigs.get(letter="A")).now
    memory.forget()
    reader.get(reverse("plan:day", args=[gated.pk]))
    fresh = Study.objects.get(pk=gated.pk)
    rig = next(one for one in rigs_of(fresh) if one.letter == "A")
    assert basis_for(fresh, rig).now == before
