"""The workbench: questions answered without a study, an account or the database."""

import math
import re
from html import unescape

import pytest
from django.urls import reverse

from inchmark.core.antenna.lengths import quarter_wave_helix
from inchmark.formats.limits import regions
from inchmark.studies.models import Study
from tests import make

PAGE = reverse("workbench:workbench")
KEYS = ("power", "brings", "reach", "antenna", "air", "inductive", "way", "limits")


def answered(client, key, **typed):
    page = reverse("workbench:answer", args=[key])
    given = {f"{key}-{name}": text for name, text in typed.items()}
    return make.html(client.get(page, given, headers={"HX-Request": "true"}))


def test_every_question_stands_answered_and_nobody_has_to_sign_in(client):
    html = make.html(client.get(PAGE))  # no database: this test has none
    for key in KEYS:
        assert f'id="{key}-answers"' in html
    assert html.count('class="ledger answers"') == len(KEYS)
    assert 'class="wrong"' not in html


@pytest.mark.parametrize(
    ("key", "typed", "words"),
    [
        # 25 mW is 13.98 dBm; 0 dBd is 2.15 dBi (definitions)
        ("power", {"power": "25 mW", "gain": "0 dBd", "lead": "0"}, ["14.0 dBm", "2.15 dBi", "16.1 dBm"]),
        # free space: 6.02 dB double the range
        ("brings", {"exponent": "2", "factor": "2"}, ["takes +6.0 dB", "× 2.00 in range"]),
        ("brings", {"exponent": "4", "factor": "2"}, ["takes +12.0 dB", "free space alone"]),
        # 299 792 458 / 868e6 = 345.4 mm; a quarter of it 86.3 mm
        ("antenna", {"frequency": "868 MHz", "velocity": "1"}, ["345 mm", "86.3 mm", "173 mm"]),
        # SF7, 125 kHz, 4/5, 8 symbols, header and CRC, 12 bytes: 41.2 ms
        ("air", {"spreading": "7", "bandwidth": "125", "payload": "12"}, ["41.22 ms"]),
        ("air", {"modulation": "oqpsk", "payload": "12"}, ["250 kbit/s"]),
        ("way", {"frequency": "868 MHz"}, ["metal, 1 mm", "nothing comes through", "brick"]),
    ],
)  # fmt: skip
def test_answers_are_what_definitions_and_tables_say(client, key, typed, words):
    html = answered(client, key, **typed)
    assert [word for word in words if word not in html] == []


def test_a_bracket_in_free_space_is_friis(client):
    """Friis 1946 by hand for 100 dB at 868 MHz; half of the frames at half of the places needs no more."""
    html = answered(
        client, "reach", power="0 dBm", gains="0", losses="0", sensitivity="-100 dBm",
        surrounding="free_space", loss="50", places="50",
    )  # fmt: skip
    by_hand = 10 ** (100 / 20) * (299_792_458 / 868e6) / (4 * math.pi)
    assert f"{by_hand / 1000:.2f} km" in html.split("typical")[1][:120]
    assert "radio horizon" in html


@pytest.mark.parametrize(
    ("key", "typed", "words"),
    [
        ("power", {"power": "lots"}, "Power"),
        ("power", {"gain": "3"}, "Antenna"),
        ("brings", {"exponent": "0"}, "must be from 1 to 8"),
        ("reach", {"frequency": "3 m"}, "Frequency"),
        ("antenna", {"velocity": "2"}, "must be from 0.1 to 1"),
        ("air", {"period": "1 ms"}, "does not fit"),
        ("air", {"payload": "200", "modulation": "oqpsk"}, "0 to 116 bytes"),
        ("way", {"frequency": "1 Hz"}, "must be from"),
    ],
)
def test_what_is_no_quantity_gets_a_sentence(client, key, typed, words):
    html = answered(client, key, **typed)
    assert words in html
    assert 'class="wrong"' in html


def test_without_a_script_an_answer_is_a_page_of_its_own(client):
    html = make.html(
        client.get(reverse("workbench:answer", args=["brings"]), {"brings-factor": "3"})
    )
    assert "All questions" in html
    assert "range × 3.00" in html
    assert client.get(reverse("workbench:answer", args=["weather"])).status_code == 404


def test_the_worst_stands_first(client):
    html = answered(client, "way", frequency="2.44 GHz")
    assert html.index("metal") < html.index("concrete") < html.index("glass")


def test_limits_are_rows_of_the_table_and_silence_is_no_leave(client):
    html = answered(client, "limits", frequency="868.3 MHz")
    assert "868" in html
    assert "licensed people decide" in html
    assert "no leave to send there" in answered(client, "limits", frequency="450 MHz")


def test_a_wound_quarter_wave_is_what_the_formula_says():
    """D 6 mm, s 2 mm, 868 MHz: (D/s)^2.5 = 15.588, (D/lambda)^0.5 = 0.13180; V = 1/sqrt(42.09)."""
    one = quarter_wave_helix(868e6, diameter_m=6e-3, pitch_m=2e-3)
    assert one.velocity_factor == pytest.approx(0.15413, abs=2e-4)
    assert one.height_m == pytest.approx(0.15413 * 0.345383 / 4, rel=1e-3)
    assert one.turns == pytest.approx(6.654, abs=0.01)
    assert one.wire_m == pytest.approx(6.654 * 18.956e-3, rel=1e-3)
    assert one.in_range


def test_what_gives_a_range_is_told_each_way(client):
    """Twice at n = 3.1: 9.33 dB; SF7 to SF11 gives 10 dB (2.5 dB a step, from the required S/N)."""
    html = make.html(client.get("/workbench/brings/", {"brings-factor": "2"}))
    assert "14.0 dBm to 23.3 dBm, 215 mW" in html
    assert "or +4.7 dB at both" in html
    assert "SF7 to SF11: +10.0 dB" in html
    html = make.html(client.get("/workbench/brings/", {"brings-factor": "5"}))
    assert "not by it alone: SF7 to SF12 gives +12.5 dB" in html
    html = make.html(client.get("/workbench/brings/", {"brings-spreading": "", "brings-power": ""}))
    assert "times slower at the same energy a bit" in html


def test_a_bank_that_switches_off_is_told(client):
    html = make.html(client.get("/workbench/air/", {"air-bank": "50 mA"}))
    assert "switches off between messages" in html
    assert "a load of 50 mA beside it" in html
    awake = {"air-bank": "50 mA", "air-sleeping": "60 mA"}
    assert "enough to keep the bank on" in make.html(client.get("/workbench/air/", awake))


@pytest.mark.django_db
def test_a_study_is_begun_with_what_was_asked(client):
    html = client.get("/workbench/reach/").content.decode()
    (link,) = re.findall(r'href="(/workbench/begin/[^"]+)"', html)
    assert client.get(unescape(link)).status_code == 302  # to sign in
    user = make.user()
    client.force_login(user)
    page = client.get(unescape(link))
    assert 'value="-123 dBm"' in page.content.decode()
    typed = page.context["form"].initial | {"title": "Gates", "region": regions()[0]}
    made = client.post("/workbench/begin/", typed)
    study = Study.objects.get(title="Gates")
    rig = study.rigs.get()
    assert made.url == rig.get_absolute_url()
    assert (rig.power_dbm, rig.sensitivity_dbm, rig.fixed_height_m) == (14.0, -123.0, 4.0)
    assert rig.frequency_hz == 868e6


@pytest.mark.django_db
def test_a_figure_no_rig_has_keeps_what_was_typed_and_no_study(client):
    client.force_login(make.user())
    typed = {"title": "Gates", "region": regions()[0], "power": "900 dBm"}
    page = client.post("/workbench/begin/", typed)
    assert page.status_code == 422
    assert "900 dBm" in page.content.decode()
    assert not Study.objects.filter(title="Gates").exists()


def test_two_loops_couple_by_their_radii_and_distance(client):
    """r 5 cm both, 10 cm: k 0.0894; k^2 30 30 = 7.2, more than all: 0 dB."""
    near = answered(client, "inductive", radius1="5 cm", radius2="5 cm", distance="10 cm")
    assert "0.0894" in near
    assert "0.0 dB" in near
    far = answered(client, "inductive", radius1="5 cm", radius2="5 cm", distance="50 cm")
    assert "−30.6 dB" in far or "−30.7 dB" in far
