"""The loss over known terrain as a reading takes it."""

import numpy as np
import pytest

from inchmark.core.geodesy import Place, destination
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.demo.services import marsh_terrain
from inchmark.plan.adapters.places import site_facts
from inchmark.plan.adapters.terrain import grid_for
from inchmark.plan.adapters.terrain_law import BEYOND_DB, terrain_facts
from inchmark.plan.models import Site
from inchmark.plan.services import place_fixed_end, site_of
from inchmark.plan.services.terrain import keep_terrain
from inchmark.read.adapters import walked_of
from inchmark.read.services import make_reading
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def over_terrain(walked):
    """The walked study with its stops on the demo's terrain."""
    fixed = Place(lat_deg=47.5, lon_deg=-21.0)
    place_fixed_end(walked, Site(lat=47.5, lon=-21.0, ground_m=3.0, model="terrain"))
    for stop in walked.stops.all():
        at = destination(fixed, 45.0, stop.distance_m)
        stop.lat, stop.lon = at.lat_deg, at.lon_deg
        stop.save()
    keep_terrain(walked, marsh_terrain().encode(), "marsh.asc")
    return walked


def facts_of(study, stops=None):
    site, rigs = site_of(study), list(study.rigs.with_parts())
    stops = list(study.stops.all()) if stops is None else stops
    return terrain_facts(site, stops, grid_for(study), site_facts(study, site, rigs))


def test_each_stop_has_the_loss_of_its_own_path_and_the_curve_goes_on(over_terrain):
    found = facts_of(over_terrain)
    assert set(found.at_stops) == {stop.label for stop in over_terrain.stops.all()}
    frequency = over_terrain.rigs.first().frequency_hz
    for stop in over_terrain.stops.all():
        free = float(free_space_loss_db(stop.distance_m, frequency))
        assert found.at_stops[stop.label] >= free - 0.5
    assert np.all(np.diff(found.distance_m) > 0)
    assert found.loss_db[-1] == found.loss_db[-2] + BEYOND_DB


def test_a_stop_without_coordinates_leaves_terrain_out(over_terrain):
    stops = list(over_terrain.stops.all())
    stops[0].lat = stops[0].lon = None
    assert facts_of(over_terrain, stops) is None


def test_rigs_at_different_heights_leave_terrain_out(over_terrain):
    over_terrain.rigs.filter(letter="B").update(height_m=9.0)
    assert facts_of(over_terrain) is None


def test_a_reading_says_what_it_was_read_with(over_terrain):
    assert walked_of(over_terrain, []).site.terrain is not None
    make_reading(over_terrain.pk)
    note = next(one for one in make.reading(over_terrain).notes if one.code == "terrain_known")
    assert "This walk is read with" in note.text
    assert "the loss over the terrain" in note.text


def test_without_terrain_nothing_changes(walked):
    assert walked_of(walked, []).site.terrain is None
    make_reading(walked.pk)
    assert "terrain_known" not in {one.code for one in make.reading(walked).notes}
