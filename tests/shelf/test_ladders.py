"""Conducted ladders: typed steps to a sensitivity that budgets can use."""

import pytest
from django.urls import reverse

from inchmark.core.reading.measured import RigPrior
from inchmark.shelf.adapters.ends import sensitivity_of
from inchmark.shelf.adapters.rigs import rig_facts
from inchmark.shelf.figures.conducted import result_of
from inchmark.shelf.models import ConductedCheck
from inchmark.shelf.services.rigs import save_rig
from tests import make

pytestmark = pytest.mark.django_db
# 0 dBm less 20 dB fixed; half lost near -121 dBm, that is 101 dB of attenuation
STEPS = (
    "96, 100, 100\n98;100;99\n100 100 84\n101\t100\t52\n\n102, 100, 17\n104, 100, 0\n106, 100, 0"
)


def keep(client, study, rows=STEPS, **changes):
    return make.post_ladder(client, study, rows, **{"unit": "0042"} | changes)


def test_a_ladder_gives_a_sensitivity_with_its_limits(owner_client, study):
    html = make.html(keep(owner_client, study))
    found = result_of(ConductedCheck.objects.get())
    half = found.half_lost
    assert half.low < -121 < half.high
    assert half.high - half.low < 0.6
    assert "Half of the frames lost at \N{MINUS SIGN}12" in html
    assert "unit 0042" in html
    assert found.warning == ""


def test_a_used_ladder_stands_in_for_the_datasheet_and_can_be_taken_back(owner_client, study):
    keep(owner_client, study)
    check = ConductedCheck.objects.get()
    page = reverse("shelf:ladder-use", args=[study.pk, check.pk])
    before = sensitivity_of(study.rigs.get())
    owner_client.post(page, {"use": "ladder"})
    used = sensitivity_of(study.rigs.get())
    assert used.dbm == pytest.approx(-121, abs=0.3)
    assert used.source == "half lost, conducted 12 Nov 2026"
    prior = rig_facts(study.rigs.get()).prior
    assert isinstance(prior, RigPrior)
    assert prior.conducted
    owner_client.post(page, {"use": "datasheet"})
    assert sensitivity_of(study.rigs.get()) == before


def test_a_removed_ladder_no_longer_stands_in_for_the_datasheet(owner_client, study):
    keep(owner_client, study)
    check = ConductedCheck.objects.get()
    before = sensitivity_of(study.rigs.get())
    owner_client.post(reverse("shelf:ladder-use", args=[study.pk, check.pk]), {"use": "ladder"})
    owner_client.post(reverse("shelf:check-remove", args=[study.pk, "ladders", check.pk]))
    assert not ConductedCheck.objects.exists()
    assert sensitivity_of(study.rigs.get()) == before


def test_a_ladder_without_an_edge_is_kept_but_cannot_be_used(owner_client, study):
    html = make.html(keep(owner_client, study, "80, 50, 50\n84, 50, 50\n88, 50, 50"))
    assert "Add steps there" in html
    page = reverse("shelf:ladder-use", args=[study.pk, ConductedCheck.objects.get().pk])
    html = make.html(owner_client.post(page, {"use": "ladder"}, follow=True))
    assert "has not found the level" in html
    assert study.rigs.get().conducted_dbm is None


def test_a_leak_round_the_cable_is_named(owner_client, study):
    html = make.html(keep(owner_client, study, STEPS + "\n116, 100, 30"))
    assert "they came round the cable" in html


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ("", "Type the steps, or choose a frame log"),
        ("96, 100, 100\n98, 100, 99", "3 different levels"),
        ("96, 100, 100\n98, 100", "Line 2, “98, 100”: write 3 values"),
        ("96, 100, 101\n98, 100, 99\n100, 9, 9", "no more frames heard than sent"),
        ("-3, 100, 100\n98, 100, 99\n100, 9, 9", "attenuation from 0 to 250 dB"),
        ("nan, 100, 100\n98, 100, 99\n100, 9, 9", "attenuation from 0 to 250 dB"),
        ("96, 10.5, 10\n98, 100, 99\n100, 9, 9", "“10.5” is no count for the frames sent"),
    ],
)
def test_a_wrong_ladder_keeps_what_was_typed_and_says_why(owner_client, study, rows, words):
    response = keep(owner_client, study, rows)
    html = make.html(response)
    assert response.status_code == 422
    assert words in html
    assert "0042" in html
    assert not ConductedCheck.objects.exists()


def test_no_ladder_yet_says_what_to_do(owner_client, study):
    page = make.html(owner_client.get(reverse("shelf:ladders", args=[study.pk])))
    assert "step the attenuation until nothing arrives" in page


def test_ladders_of_others_are_404(client, study):
    client.force_login(make.owner(study))
    keep(client, study)
    check = ConductedCheck.objects.get()
    client.force_login(make.user())
    assert client.get(reverse("shelf:ladders", args=[study.pk])).status_code == 404
    assert client.post(reverse("shelf:ladders", args=[study.pk])).status_code == 404
    use = reverse("shelf:ladder-use", args=[study.pk, check.pk])
    assert client.post(use).status_code == 404


def test_a_rig_of_another_study_is_not_offered(owner_client, study):
    other = make.field_study()
    response = keep(owner_client, study, rig=other.rigs.get().pk)
    assert "Select a valid choice" in make.html(response)


def test_the_page_shows_stored_readings_and_costs_a_fixed_number_of_queries(
    owner_client, study, django_assert_max_num_queries
):
    for _ in range(4):
        keep(owner_client, study)
    with django_assert_max_num_queries(12):
        owner_client.get(reverse("shelf:ladders", args=[study.pk]))


def test_a_ladder_in_use_serves_every_rig_of_its_module_and_setting(owner_client, study):
    alike = make.rig(study, "B", antenna="half-wave whip")
    other = make.rig(study, "C", spreading_factor=9)
    keep(owner_client, study, rig=study.rigs.get(letter="A").pk)
    check = ConductedCheck.objects.get()
    use = reverse("shelf:ladder-use", args=[study.pk, check.pk])
    html = make.html(owner_client.post(use, {"use": "ladder"}, follow=True))
    assert "In use for A, B:" in html
    for rig in (alike, other):
        rig.refresh_from_db()
    assert alike.conducted == check
    assert other.conducted is None
    late = make.rig(study, "D", antenna="panel")
    assert late.conducted == check
    late.spreading_factor = 9
    save_rig(study, late)
    assert (late.conducted, late.conducted_dbm) == (None, None)
    owner_client.post(use, {"use": "datasheet"})
    assert not study.rigs.filter(conducted__isnull=False).exists()
