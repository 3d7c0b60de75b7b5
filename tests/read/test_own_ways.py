"""A needed place stands under its own cover, at its own height and behind its own walls, and says so."""

import numpy as np
import pytest

from inchmark.plan.models import Site, SitePoint, SiteWall, Stop
from inchmark.plan.services import place_fixed_end, save_stop
from inchmark.plan.services.points import remove_point, save_point
from inchmark.plan.services.walls import save_wall
from inchmark.read.services import make_reading
from inchmark.studies.models import Study
from tests import make

pytestmark = pytest.mark.django_db
DEG_EAST = 1 / 75_336.0  # a metre at 47.5 degrees
METRES = (30.0, 60.0, 120.0, 240.0, 480.0, 700.0)


def east(metres):
    return -21.0 + metres * DEG_EAST


@pytest.fixture
def walked(db):
    """Six stops to the east, levels falling by 30 dB a decade; losses from 480 m on."""
    study = make.study(needed_m=400)
    make.rig(study, height_m=1.5, fixed_height_m=3.0)
    place_fixed_end(study, Site(lat=47.5, lon=-21.0))
    random, rows = np.random.default_rng(5), []
    for i, metres in enumerate(METRES):
        save_stop(study, Stop(label=str(i), lat=47.5, lon=east(metres)))
        level = -80 - 30 * np.log10(metres / 60) + random.normal(0, 2)
        for seq, one in enumerate(level + random.normal(0, 3, 80)):
            heard = int(one > -112)
            rows.append(f"A,{i},{seq},{heard},{one if heard else '':.4}")
    make.log(make.walk(study), make.LOG_HEADER + "\n".join(rows) + "\n")
    return study


def node(study, metres, **more):
    return save_point(study, SitePoint(kind="node", lat=47.50003, lon=east(metres), **more))


def places(study):
    make_reading(study.pk)
    (served,) = make.reading(Study.objects.get(pk=study.pk)).served
    return {one.place: one for one in served.places}


def test_cover_and_height_of_a_place_enter_its_chance_and_widen_its_limits(walked):
    node(walked, 300.0)
    node(walked, 300.0, cover="woodland", cover_m=60.0)
    node(walked, 300.0, antenna_m=0.3)
    node(walked, 300.0, antenna_m=6.0)
    found = places(walked)
    plain, wood, low, high = (found[f"N{i}"] for i in range(1, 5))
    assert plain.extrapolated == ()
    assert wood.extrapolated == ("under other cover than any stop",)
    assert low.extrapolated == high.extrapolated == ("at another height than was walked",)
    assert wood.level_dbm.estimate < plain.level_dbm.estimate - 6
    assert low.level_dbm.estimate < plain.level_dbm.estimate - 6 < high.level_dbm.estimate
    assert high.level_dbm.estimate > plain.level_dbm.estimate + 3
    wide = [one.level_dbm.high - one.level_dbm.low for one in (plain, wood, low)]
    assert min(wide[1:]) > wide[0] + 1
    assert wood.meets.estimate < plain.meets.estimate


def test_cover_that_the_stops_had_is_in_the_walk_already(walked):
    walked.stops.update(cover="clutter")
    node(walked, 300.0, cover="clutter")
    node(walked, 300.0)
    found = places(walked)
    assert found["N1"].extrapolated == ()
    assert found["N2"].extrapolated == ("under other cover than any stop",)
    assert found["N2"].level_dbm.estimate > found["N1"].level_dbm.estimate + 3


def test_a_covered_place_beside_a_bare_stop_is_not_that_stop(walked):
    node(walked, 240.0)
    node(walked, 240.0, cover="traditional")
    node(walked, 240.0, antenna_m=0.2)
    found = places(walked)
    assert found["N1"].measured_at == "3"
    assert found["N2"].measured_at == found["N3"].measured_at == ""


def test_floors_count_inside_a_building(walked):
    Site.objects.filter(study=walked).update(model="indoor")
    node(walked, 100.0)
    node(walked, 100.0, floors=2)
    found = places(walked)
    # two floors of an office at 868 MHz: 9 + 4 dB (ITU-R P.1238, from memory), in the middle
    less = found["N1"].level_dbm.estimate - found["N2"].level_dbm.estimate
    assert less == pytest.approx(13.0, abs=1.5)
    assert found["N2"].extrapolated == ("under other cover than any stop",)


def test_what_is_read_follows_needed_places_and_walls(walked):
    def revision():
        return Study.objects.get(pk=walked.pk).revision

    before = revision()
    one = node(walked, 300.0)
    assert revision() > before
    before = revision()
    remove_point(one)
    assert revision() > before
    before = revision()
    save_wall(walked, SiteWall(kind="light", points=[[47.4, east(50)], [47.6, east(50)]]))
    assert revision() > before


def test_a_wall_is_read_with_and_a_place_stands_behind_its_own(walked):
    save_wall(walked, SiteWall(kind="typed", loss_db=10, points=[[47.500001, east(20)], [47.51, east(20)]]))  # fmt: skip
    node(walked, 300.0)
    found = places(walked)
    reading = make.reading(Study.objects.get(pk=walked.pk))
    assert reading.site.wall_factor is not None
    assert {"walls_known"} <= {one.code for one in reading.notes}
    # the way to N1 runs 3 m north of the stops and through the wall
    assert found["N1"].level_dbm.estimate < -80 - 30 * np.log10(5) - 4
    save_stop(walked, Stop(label="tape", distance_m=90.0))
    make.log(make.walk(walked), make.LOG_HEADER + "A,tape,1,1,-85\nA,tape,2,1,-86\n")
    places(walked)
    notes = {one.code: one for one in make.reading(Study.objects.get(pk=walked.pk)).notes}
    assert "Stop tape has no coordinates" in notes["walls_left"].text
