"""Units named on a walk, and results split by them."""

import pytest
from django.urls import reverse

from inchmark.read.services import make_reading
from inchmark.shelf.models import Module, Unit
from inchmark.shelf.services.parts import save_part
from inchmark.walk.services.outing import name_units
from tests import make

pytestmark = pytest.mark.django_db
DISTANCES = 4


@pytest.fixture
def two_units(db):
    """Rig A walked twice, the second time with a unit 6 dB weaker; rig B once."""
    study = make.field_study(rigs="AB", stops=DISTANCES)
    module = save_part(study, Module(name="Dulse L8"))
    units = [save_part(study, Unit(module=module, serial=s)) for s in ("L8-11", "L8-40")]
    for unit, weaker in zip(units, (0, 6), strict=True):
        walk = make.walk(study)
        name_units(walk, {study.rigs.get(letter="A"): unit}, None)
        rows = [
            f"{rig},{s},{i},1,{-70 - 9 * s - weaker * (rig == 'A') + i % 3}"
            for rig in "AB"
            for s in range(1, DISTANCES + 1)
            for i in range(30)
        ]
        make.log(walk, make.LOG_HEADER + "\n".join(rows) + "\n")
    make_reading(study.pk)
    return study


def test_a_weak_unit_shows_up_as_a_unit(client, two_units):
    rows = make.reading(two_units).units
    assert [(row.rig, row.unit) for row in rows] == [("A", "L8-11"), ("A", "L8-40")]
    weak = rows[1]
    assert weak.against == "L8-11"
    assert weak.signal_db.low < -6 < weak.signal_db.high
    assert not weak.same_walks
    client.force_login(make.owner(two_units))
    html = make.html(client.get(reverse("read:reading", args=[two_units.pk])))
    assert "By unit" in html
    assert "the day is in this figure too" in html


def test_one_unit_needs_no_split(walked):
    assert make.reading(walked).units == ()


def test_units_are_named_on_the_page_of_the_walk(client, two_units):
    client.force_login(make.owner(two_units))
    walk = two_units.walks.first()
    html = make.html(client.get(walk.get_absolute_url()))
    assert "Units used: A L8-11" in html
    rig, unit = two_units.rigs.get(letter="B"), two_units.units.get(serial="L8-40")
    page = reverse("walk:units-name", args=[two_units.pk, walk.pk])
    html = client.post(page, {f"units-rig-{rig.pk}": unit.pk, "units-fixed": unit.pk}, follow=True)
    assert "Units used: B L8-40; fixed end L8-40" in make.html(html)


def test_a_unit_of_another_study_is_refused(client, two_units):
    client.force_login(make.owner(two_units))
    other = make.study()
    foreign = save_part(other, Unit(module=save_part(other, Module(name="X")), serial="X-1"))
    walk, rig = two_units.walks.first(), two_units.rigs.get(letter="A")
    page = reverse("walk:units-name", args=[two_units.pk, walk.pk])
    html = make.html(client.post(page, {f"units-rig-{rig.pk}": foreign.pk}, follow=True))
    assert "not on this study" in html
    assert walk.units.get().unit.serial == "L8-11"
