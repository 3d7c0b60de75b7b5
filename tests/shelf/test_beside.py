"""Rigs and antennas side by side: differences, sources, what is marked, and the table as CSV."""

import csv
import io

import pytest
from django.urls import reverse

from inchmark.shelf.models import Antenna
from inchmark.shelf.services.parts import save_part
from inchmark.shelf.services.rigs import save_rig
from inchmark.shelf.services.shelf_files import starter_shelf, take_in
from tests import make
from tests.shelf.test_sweeps import add, resonant_at

pytestmark = pytest.mark.django_db


@pytest.fixture
def stocked(study):
    take_in(study, starter_shelf())
    return study


def page(client, study, name="beside", **asked):
    return client.get(reverse(f"shelf:{name}", args=[study.pk]), asked)


def antenna(study, name, gain, price):
    return save_part(study, Antenna(name=name, gain_dbi=gain, price=price))


def test_two_antennas_from_their_files_to_range_power_and_price(owner_client, study):
    """2 dBi and VSWR 1 against 0 dBi at VSWR 2.387 (0.79 dB): 2.79 dB, 10^(0.279/3) = 1.24 times."""
    good, poor = antenna(study, "long whip", 2.0, 9.0), antenna(study, "stub", 0.0, 2.0)
    for one, mhz in ((good, 868), (poor, 830)):
        add(owner_client, study, resonant_at(mhz), part=one.pk, antenna="")
    shown = page(owner_client, study, "beside-antennas", base=poor.pk, at="868", exponent="3")
    html = make.html(shown)
    assert (
        "Long whip has 2.8 dB on stub: 1.24 times the range, or 47 % of the power saved, 2.51 a dB."
        in html
    )
    assert "2.39" in html
    assert html.count('class="curve"') == 2
    assert "exponent of 3" in html
    text = page(owner_client, study, "beside-antennas", base=poor.pk, at="868", **{"as": "csv"})
    rows = {row["candidate"]: row for row in csv.DictReader(io.StringIO(text.content.decode()))}
    assert float(rows["long whip"]["gained_dB"]) == pytest.approx(2.794, abs=0.01)
    assert float(rows["stub"]["vswr_there"]) == pytest.approx(2.387, abs=0.01)
    assert rows["stub"]["mismatch_known_from"].startswith("bench")


def test_rigs_stand_with_what_they_radiate_bear_draw_and_cost(owner_client, stocked):
    first = stocked.rigs.get()
    first.power_dbm = 8.0
    save_rig(stocked, first)
    one = make.rig(stocked, "B", power_dbm=11.0)
    html = make.html(page(owner_client, stocked))
    assert "B has 3.0 dB on A: 1.26 times the range, or 50 % of the power saved" in html
    assert "common practice over ground" in html
    assert html.count(">the one chosen<") == 1
    assert html.count(one.get_absolute_url()) >= 1


def test_a_rig_over_its_limit_is_marked_and_never_praised(owner_client, stocked):
    loud = make.rig(stocked, "B", power_dbm=27.0)
    html = make.html(page(owner_client, stocked))
    assert "over the limit of" in html
    assert "B has" not in html
    assert "Nothing to hold against A yet" in html
    loud.power_dbm = stocked.rigs.get(letter="A").power_dbm - 2
    save_rig(stocked, loud)
    assert "None is stronger than A." in make.html(page(owner_client, stocked))


def test_what_is_asked_badly_gets_a_sentence(owner_client, stocked):
    shown = page(owner_client, stocked, exponent="99")
    assert shown.status_code == 422
    assert "8" in make.html(shown)
    shown = page(owner_client, stocked, "beside-antennas", at="1 Hz")
    assert "from 0.1 MHz to 100 GHz" in make.html(shown)
    other = make.field_study()
    assert page(owner_client, stocked, one=[other.rigs.get().pk]).status_code == 422


def test_empty_shelves_say_what_to_do(owner_client):
    study = make.study()
    client = owner_client
    client.force_login(make.owner(study))
    assert "Put rigs on the shelf first" in make.html(page(client, study))
    assert "Put antennas on the shelf first" in make.html(page(client, study, "beside-antennas"))


def test_the_page_asks_as_much_of_many_rigs_as_of_few(
    owner_client, stocked, django_assert_max_num_queries
):
    for letter in "BCDEFGH":
        make.rig(stocked, letter)
    page(owner_client, stocked)
    with django_assert_max_num_queries(22):
        page(owner_client, stocked)
