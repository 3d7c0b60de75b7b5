"""Rigs: what the database refuses, what each should do, copying and removing."""

import re

import pytest
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.urls import reverse

from inchmark.shelf.adapters.ends import sensitivity_of
from inchmark.shelf.adapters.rigs import rig_facts
from inchmark.shelf.figures.rigs import rig_figures
from inchmark.shelf.forms.rigs import RigForm
from inchmark.shelf.models import Rig
from inchmark.shelf.services import rigs as services
from inchmark.shelf.services.rigs import next_letter
from inchmark.studies.models import Study
from tests import make

pytestmark = pytest.mark.django_db


def typed(**changes):
    """The rig form as a person fills it in."""
    form = RigForm(
        instance=Rig(letter="B", module="Dulse L8", antenna="half-wave whip"), study=Study(pk=0)
    )
    values = {name: form[name].value() for name in form.fields}
    values = {name: "" if value is None else value for name, value in values.items()}
    return values | {"spreading_factor": "7"} | changes


def test_a_rig_is_typed_with_its_units(owner_client, study):
    page = reverse("shelf:rig-add", args=[study.pk])
    data = typed(power_dbm="25 mW", frequency_hz="869.525", height_m="3 ft", bandwidth_hz="125")
    response = owner_client.post(page, data)
    assert response.status_code == 302, response.content.decode()
    rig = study.rigs.get(letter="B")
    assert rig.power_dbm == pytest.approx(13.979, abs=1e-3)
    assert rig.frequency_hz == pytest.approx(869.525e6)
    assert rig.height_m == pytest.approx(0.9144)
    assert rig.bandwidth_hz == 125e3


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"letter": "A"}, "has a rig of that letter already"),
        ({"letter": "a1!"}, "A rig is a capital letter"),
        ({"spreading_factor": "13"}, "from 5 to 12"),
        ({"spreading_factor": ""}, "Chirp needs a spreading factor"),
        ({"modulation": "gfsk"}, "GFSK needs a bit rate"),
        ({"power_dbm": "90 dBm"}, "from -60 to 60 dBm"),
        ({"antenna_gain_dbi": "nan"}, "Enter a number"),
        ({"payload_bytes": "300"}, "from 0 to 255 bytes"),
    ],
)
def test_a_wrong_rig_is_not_kept_and_says_what_to_mend(owner_client, study, wrong, words):
    response = owner_client.post(reverse("shelf:rig-add", args=[study.pk]), typed(**wrong))
    assert response.status_code == 422
    assert words in make.html(response)
    assert study.rigs.count() == 1


@pytest.mark.parametrize(
    "wrong", [{"power_dbm": float("nan")}, {"duty_cycle_percent": 0}, {"spreading_factor": None}]
)
def test_the_database_refuses_what_slips_past_the_form(study, wrong):
    with pytest.raises(IntegrityError), transaction.atomic():
        Rig.objects.filter(study=study).update(**wrong)


def test_sensitivity_says_where_it_came_from(study):
    computed = sensitivity_of(study.rigs.get())
    assert computed.dbm == pytest.approx(-124.5, abs=0.05)  # kTB 125 kHz + 6 dB - 7.5 dB
    assert "noise figure" in computed.source
    rig = make.rig(study, "B", sensitivity_dbm=-121)
    assert sensitivity_of(rig).source == "datasheet, as typed"


def test_a_gfsk_rig_has_its_airtime_and_sensitivity(study):
    rig = make.rig(
        study, "F", modulation="gfsk", spreading_factor=None, bit_rate_bit_s=50e3, payload_bytes=20
    )
    figures = rig_figures(rig)
    assert figures.airtime_s == pytest.approx((8 + 4 + 1 + 20 + 2) * 8 / 50e3)
    assert rig.setting == "50 kbit/s"
    assert "common practice" in figures.sensitivity.source


def test_the_shelf_shows_what_an_hour_allows(owner_client, study):
    page = make.html(owner_client.get(reverse("shelf:rigs", args=[study.pk])))
    assert "Dulse L8" in page
    assert "at 1 %" in page


def test_the_shelf_costs_a_fixed_number_of_queries(
    owner_client, study, django_assert_max_num_queries
):
    for letter in "BCDEF":
        make.rig(study, letter)
    with django_assert_max_num_queries(10):
        owner_client.get(reverse("shelf:rigs", args=[study.pk]))


def test_an_empty_shelf_says_what_to_do_first(client):
    study = make.study()
    client.force_login(make.owner(study))
    page = make.html(client.get(reverse("shelf:rigs", args=[study.pk])))
    assert "Two rigs that differ in one thing" in page


def test_copying_a_rig_is_one_action_and_takes_the_next_letter(owner_client, study):
    rig = study.rigs.get()
    response = owner_client.post(reverse("shelf:rig-copy", args=[study.pk, rig.pk]))
    copy = study.rigs.get(letter="B")
    assert response.url == copy.get_absolute_url()
    assert (copy.module, copy.power_dbm) == (rig.module, rig.power_dbm)


def test_a_rig_with_frames_stays_and_says_where_they_are(owner_client, study):
    make.log(make.walk(study), make.frames_log())
    rig = study.rigs.get()
    with pytest.raises(ValidationError, match="Rig A has frames in walk 1"):
        services.remove_rig(rig)
    page = owner_client.post(
        reverse("shelf:rig-remove", args=[study.pk, rig.pk]), follow=True
    ).content.decode()
    assert "has frames in walk 1, so it stays" in page
    assert study.rigs.count() == 1


def test_a_rig_without_frames_goes(owner_client, study):
    owner_client.post(reverse("shelf:rig-remove", args=[study.pk, study.rigs.get().pk]))
    assert study.rigs.count() == 0


def test_rigs_that_differ_in_one_thing_differ_in_one_named_thing(study):
    one, two = study.rigs.get(), make.rig(study, "B", antenna="half-wave whip")
    before, after = dict(rig_facts(one).varied), dict(rig_facts(two).varied)
    assert [name for name in before if before[name] != after[name]] == ["antenna"]


def test_the_alphabet_is_not_the_end_of_rigs(study):
    names = {rig.letter for rig in study.rigs.all()}
    for _ in range(30):
        name = next_letter(study)
        assert name not in names
        names.add(make.rig(study, name).letter)
    assert {"Z", "A1", "D1"} <= names


def test_a_rig_form_asks_module_setting_and_antenna_first_and_folds_the_rest_into_sentences(
    owner_client, study
):
    rig = study.rigs.get()
    page = reverse("shelf:rig-edit", args=[study.pk, rig.pk])
    html = make.html(owner_client.get(page))
    opened = re.sub(r"<details.*?</details>", "", html.split('class="form-wide"')[1])
    first = re.findall(r'<(?:input|select)[^>]* name="(\w+)"', opened.split("</form>")[0])
    assert "letter" in first
    assert "setting_part" in first
    assert len([name for name in first if name != "csrfmiddlewaretoken"]) <= 9
    for words in (
        "1.5 m high, no housing loss, carried freely, no feed loss",
        "one message every 15 min",
        "868.1 MHz, SF7, 12 bytes, 14.0 dBm",
    ):
        assert words in html
    response = owner_client.post(page, {"letter": "A", "height_m": "x"})
    assert response.status_code == 422
    assert '<details class="fold" open>' in make.html(response)


def test_keeping_a_rig_says_what_changed_and_speaks_of_frames_only_where_there_are_some(
    owner_client, study
):
    rig = study.rigs.get()
    page = reverse("shelf:rig-edit", args=[study.pk, rig.pk])
    form = owner_client.get(page).context["form"]
    typed = {name: "" if form[name].value() is None else form[name].value() for name in form.fields}
    said = make.html(owner_client.post(page, typed | {"power_dbm": "17 dBm"}, follow=True))
    assert "A changed: transmit power 17.0 dBm. It now radiates 17.0 dBm e.r.p. (14.0 dBm" in said
    assert "read anew" not in said
    said = make.html(owner_client.post(page, typed | {"power_dbm": "17 dBm"}, follow=True))
    assert "nothing a comparison rests on has changed" in said
    make.log(make.walk(study), make.frames_log())
    said = make.html(owner_client.post(page, typed | {"height_m": "2 m"}, follow=True))
    assert "height 2 m" in said
    assert "Its frames are read anew." in said
