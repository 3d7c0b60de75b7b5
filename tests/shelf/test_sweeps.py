"""Antenna sweeps: files kept as they came, what each says, and what to try next."""

from pathlib import Path

import pytest
from django.core.exceptions import ValidationError
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, transaction
from django.urls import reverse

from inchmark.decide.figures.budgets import budgets
from inchmark.shelf.adapters.ends import fixed_end
from inchmark.shelf.figures.sweeps import markers_of, state_sets, sweep_figures, trim_logs
from inchmark.shelf.forms.rigs import RigForm
from inchmark.shelf.models import Sweep
from inchmark.shelf.services.rigs import save_rig
from tests import make

pytestmark = pytest.mark.django_db
PUBLISHED = Path(__file__).parents[1] / "reference" / "touchstone"
WHIP, STUB = (
    (PUBLISHED / name).read_bytes()
    for name in ("whip_868_mhz_ma.s1p", "stub_868_detuned_mhz_db.s1p")
)


def add(client, study, data=WHIP, **changes):
    typed = {
        "antenna": "half-wave whip",
        "swept_on": "2026-11-13",
        "band_low_hz": "863",
        "band_high_hz": "870 MHz",
    }
    file = SimpleUploadedFile("sweep.s1p", data)
    page = reverse("shelf:sweep-add", args=[study.pk])
    return client.post(page, typed | changes | {"file": file}, follow=True)


def resonant_at(f0_mhz):
    """A series circuit of 50 Ohm resonant at f0, Q 10, as a file."""
    rows = ["# MHz S RI R 50"]
    for f in range(800, 941):
        x = 1j * 500 * (f / f0_mhz - f0_mhz / f)
        g = x / (100 + x)
        rows.append(f"{f} {g.real:.6f} {g.imag:.6f}")
    return "\n".join(rows).encode()


def test_a_sweep_says_what_the_published_values_say(owner_client, study):
    """Best 868 MHz at VSWR 1.190, 1.257 / 1.197 / 1.202 in the band (scikit-rf, see the table)."""
    html = make.html(add(owner_client, study))
    one = sweep_figures(Sweep.objects.get())
    assert (one.best_hz, one.best_vswr) == (868e6, pytest.approx(1.1905, abs=5e-4))
    assert (one.vswr_low, one.vswr_centre) == pytest.approx((1.2568, 1.1971), abs=5e-4)
    assert one.width_hz == pytest.approx(43.525e6, abs=2e4)
    assert one.good
    assert "best at 868 MHz, VSWR 1.19" in html
    assert "says nothing of gain" in html


def test_the_file_comes_back_as_it_came(owner_client, study):
    add(owner_client, study)
    page = reverse("shelf:sweep-file", args=[study.pk, Sweep.objects.get().pk])
    assert b"".join(owner_client.get(page).streaming_content) == WHIP


def test_a_bad_match_is_named_against_common_practice(owner_client, study):
    html = make.html(add(owner_client, study, STUB))
    assert "2 is common practice" in html
    assert not sweep_figures(Sweep.objects.get()).good


def test_a_sweep_that_misses_the_band_says_so(owner_client, study):
    html = make.html(add(owner_client, study, band_low_hz="2400", band_high_hz="2480"))
    assert "sweep wider" in html


def test_a_perfect_match_everywhere_is_named_as_a_load(owner_client, study):
    load = b"# MHz S RI R 50\n" + b"".join(b"%d 0.001 0\n" % f for f in range(800, 940))
    assert "Check what is connected" in add(owner_client, study, load).content.decode()


@pytest.mark.parametrize(
    ("data", "changes", "words"),
    [
        (b"# MHz S RI R 50\n868 0.5 0\n870 0.5\n", {}, "may have been cut off"),
        (b"# MHz S RI R 50\n868 0.5 0\n870 0 0\n", {"port": "2"}, "no port 2"),
        (b"# MHz S RI R 50\n868 nan 0\n870 0 0\n", {}, "not a possible reading"),
        (b"", {}, "The submitted file is empty"),
        (WHIP, {"band_low_hz": "880"}, "must end above where it begins"),
        (WHIP, {"series": "coil"}, "needs the value of what is changed"),
        (WHIP, {"band_low_hz": "wide"}, "not a quantity in hertz"),
        (WHIP, {"swept_on": "soon"}, "Enter a valid date"),
    ],
)
def test_a_wrong_sweep_is_not_kept_and_says_why(owner_client, study, data, changes, words):
    response = add(owner_client, study, data, **changes)
    assert response.status_code == 422
    assert words in make.html(response)
    assert "half-wave whip" in make.html(response)
    assert not Sweep.objects.exists()


def test_three_trims_tell_the_next_length(owner_client, study):
    for value, f0 in (("90", 840), ("88", 850), ("86", 860)):
        add(owner_client, study, resonant_at(f0), series="coil", changed="length, mm", value=value)
    (log,) = trim_logs(study.sweeps.all())
    assert [row[1].best_hz / 1e6 for row in log.rows] == pytest.approx([860, 850, 840], abs=0.5)
    assert log.advice.value == pytest.approx(84.7, abs=0.15)  # 866.5 MHz is 6.5 MHz on, 5 MHz a mm
    page = make.html(owner_client.get(reverse("shelf:sweeps", args=[study.pk])))
    assert "Trim log: coil" in page
    assert "Try length 84.7 mm next, 1.3 mm less than last, for 866.5 MHz" in page


def test_a_sweep_takes_over_what_another_said_only_if_asked_to(owner_client, study):
    study.rigs.update(frequency_hz=2.44e9)
    add(owner_client, study, series="coil", changed="length, mm", value="90")
    page = reverse("shelf:sweeps", args=[study.pk])
    fresh = make.html(owner_client.get(page))
    assert 'value="coil"' not in fresh
    assert 'value="2400 MHz"' in fresh  # the band of the study's rigs
    assert "A second sweep with another value" in fresh
    like = make.html(owner_client.get(page, {"like": Sweep.objects.get().pk}))
    assert 'value="coil"' in like
    assert 'value="863 MHz"' in like


def test_a_sweep_can_be_taken_off(owner_client, study):
    add(owner_client, study)
    owner_client.post(reverse("shelf:sweep-remove", args=[study.pk, Sweep.objects.get().pk]))
    assert not Sweep.objects.exists()
    page = make.html(owner_client.get(reverse("shelf:sweeps", args=[study.pk])))
    assert "No sweep yet" in page


def test_sweeps_of_others_are_404(client, study):
    client.force_login(make.owner(study))
    add(client, study)
    sweep = Sweep.objects.get()
    client.force_login(make.user())
    for name, arguments in (
        ("shelf:sweeps", [study.pk]),
        ("shelf:sweep", [study.pk, sweep.pk]),
        ("shelf:sweep-file", [study.pk, sweep.pk]),
    ):
        assert client.get(reverse(name, args=arguments)).status_code == 404
    for name, arguments in (
        ("shelf:sweep-add", [study.pk]),
        ("shelf:sweep-remove", [study.pk, sweep.pk]),
    ):
        assert client.post(reverse(name, args=arguments)).status_code == 404


def test_the_sweeps_page_costs_a_fixed_number_of_queries(
    owner_client, study, django_assert_max_num_queries
):
    for _ in range(6):
        add(owner_client, study)
    with django_assert_max_num_queries(13):
        owner_client.get(reverse("shelf:sweeps", args=[study.pk]))


def test_the_database_refuses_a_band_that_is_none(owner_client, study):
    add(owner_client, study)
    with pytest.raises(IntegrityError), transaction.atomic():
        Sweep.objects.update(band_high_hz=1e6, band_low_hz=2e6)


def read_from(client, study, **changes):
    typed = {
        "antenna": "stub coil",
        "swept_on": "2026-11-13",
        "band_low_hz": "863",
        "band_high_hz": "870",
        "way": "analyser",
        "virtual": "stub",
        "start_hz": "800",
        "stop_hz": "940",
        "points": "281",
    }
    return client.post(reverse("shelf:sweep-add", args=[study.pk]), typed | changes, follow=True)


def test_a_sweep_is_read_from_the_simulated_analyser(owner_client, study):
    html = make.html(read_from(owner_client, study))
    sweep = Sweep.objects.get()
    assert sweep_figures(sweep).best_hz == pytest.approx(852e6, abs=0.5e6)
    assert "best at 852 MHz" in html
    assert b"read from Inch Mark,simulated analyser" in bytes(sweep.data)


@pytest.mark.parametrize(
    ("changes", "words"),
    [
        ({"address": "analyser"}, "is no address"),
        ({"address": "127.0.0.1:99999"}, "is no address"),
        ({"address": "127.0.0.1:1"}, "No analyser answers at 127.0.0.1:1"),
        ({"start_hz": "950"}, "must end above where it begins"),
        ({"points": "1"}, "greater than or equal to 2"),
        ({"band_low_hz": "880"}, "must end above where it begins"),
    ],
)
def test_an_analyser_that_cannot_be_read_keeps_what_was_typed(owner_client, study, changes, words):
    response = read_from(owner_client, study, **changes)
    assert response.status_code == 422
    assert words in make.html(response)
    assert "stub coil" in make.html(response)
    assert not Sweep.objects.exists()


def test_neither_file_nor_analyser_says_what_to_choose(owner_client, study):
    response = read_from(owner_client, study, way="file")
    assert "Choose a sweep file, or read from an analyser" in make.html(response)


def keep_rig(client, study, **changes):
    rig = study.rigs.get()
    page = reverse("shelf:rig-edit", args=[study.pk, rig.pk])
    form = RigForm(instance=rig, study=study)
    typed = {name: form[name].value() for name in form.fields}
    typed = {name: "" if value is None else value for name, value in typed.items()}
    return client.post(page, typed | {"antenna": "half-wave whip"} | changes)


def test_a_sweep_of_another_antenna_is_refused(owner_client, study):
    add(owner_client, study)
    sweep = Sweep.objects.get()
    html = make.html(keep_rig(owner_client, study, sweep=sweep.pk, antenna="panel"))
    assert "That sweep is of half-wave whip, the rig&#x27;s antenna is panel" in html
    assert study.rigs.get().sweep is None


def test_a_file_in_another_reference_is_brought_to_50_ohm_and_says_so(owner_client, study):
    """A load of 44 ohm in a 75 ohm file: VSWR 1.705 there, 1.136 at 50 ohm (50 / 44)."""
    data = (PUBLISHED.parent / "touchstone2" / "whip_868_75ohm.s1p").read_bytes()
    html = make.html(add(owner_client, study, data))
    assert "reference 75 Ω in the file, 50 Ω here" in html
    assert sweep_figures(Sweep.objects.get()).best_vswr == pytest.approx(50 / 44, abs=2e-3)


def test_a_port_of_a_two_port_file_is_chosen(owner_client, study):
    data = (PUBLISHED.parent / "touchstone2" / "feed_433_two_port.s2p").read_bytes()
    add(owner_client, study, data, port="2", band_low_hz="433", band_high_hz="435")
    sweep = Sweep.objects.get()
    assert "port 2 of 2" in sweep.remarks
    assert sweep_figures(sweep).best_vswr == pytest.approx(1.7626, abs=4e-3)


def test_a_sweep_puts_its_mismatch_into_the_budget(owner_client, study):
    """VSWR 3 loses 1.249 dB (1 - (2/4)^2 of the power arrives)."""
    reflection = b"# MHz S RI R 50\n800 0.5 0\n940 0.5 0\n"
    add(owner_client, study, reflection)
    before = budgets(make.ground(study))[0].directions[0]
    response = keep_rig(owner_client, study, sweep=Sweep.objects.get().pk)
    assert response.status_code == 302, response.content.decode()
    ladder = budgets(make.ground(study))[0].directions[0]
    item = next(one for one in ladder.budget.items if one.name == "Mismatch (VSWR 3.0)")
    assert item.db == pytest.approx(1.249, abs=1e-3)
    assert item.source == "sweep of 13 Nov 2026"
    assert ladder.in_hand_db == pytest.approx(before.in_hand_db - 1.249, abs=1e-3)


def test_housing_and_polarisation_enter_both_directions_once(owner_client, study):
    """Turned by 60 degrees 6.02 dB are lost (cos 60 = 1/2)."""
    before = [one.in_hand_db for one in budgets(make.ground(study))[0].directions]
    keep_rig(owner_client, study, housing_loss_db="3", polarisation_angle_deg="60")
    after = [one.in_hand_db for one in budgets(make.ground(study))[0].directions]
    for one, other in zip(before, after, strict=True):
        assert one - other == pytest.approx(9.021, abs=1e-3)


def test_a_sweep_that_does_not_reach_the_rigs_frequency_is_refused(owner_client, study):
    add(owner_client, study, b"# MHz S RI R 50\n2400 0.5 0\n2480 0.5 0\n")
    response = keep_rig(owner_client, study, sweep=Sweep.objects.get().pk)
    assert response.status_code == 422
    assert "That sweep does not reach 868.1 MHz" in make.html(response)


def test_a_sweep_of_another_study_is_not_offered(owner_client, study):
    other = make.field_study()
    owner_client.force_login(make.owner(other))
    add(owner_client, other)
    owner_client.force_login(make.owner(study))
    response = keep_rig(owner_client, study, sweep=Sweep.objects.get().pk)
    assert response.status_code == 422
    assert "Select a valid choice" in make.html(response)


def test_a_rig_keeps_its_mismatch_when_the_sweep_is_taken_off(owner_client, study):
    add(owner_client, study)
    keep_rig(owner_client, study, sweep=Sweep.objects.get().pk)
    owner_client.post(reverse("shelf:sweep-remove", args=[study.pk, Sweep.objects.get().pk]))
    assert study.rigs.get().vswr == pytest.approx(1.197, abs=0.01)


def test_states_are_held_against_each_other(owner_client, study):
    for state, mhz in (("free", 868), ("metal", 830), ("retuned", 866)):
        add(owner_client, study, resonant_at(mhz), state=state, unit="S-03")
    html = make.html(owner_client.get(reverse("shelf:sweeps", args=[study.pk])))
    assert "In states: half-wave whip, unit S-03" in html
    (one,) = state_sets(Sweep.objects.all())
    assert one.sentence.startswith(
        "Metal costs 0.7 dB of match and moves the best match by −38.0 MHz"
    )
    assert "retuning gives back 0.7 of the 0.7 dB" in one.sentence
    assert one.sentence in html


def test_markers_stand_where_they_are_typed(owner_client, study):
    add(owner_client, study, resonant_at(868))
    page = reverse("shelf:sweep", args=[study.pk, Sweep.objects.get().pk])
    html = make.html(owner_client.get(page, {"at": "868; 0.9 GHz; 2440"}))
    assert "outside this sweep" in html
    assert '<td class="num">900</td>' in html
    assert "is no" in make.html(owner_client.get(page, {"at": "soon"}))
    (low, *_), marked = (
        markers_of(Sweep.objects.get()),
        markers_of(Sweep.objects.get(), [868e6])[-1],
    )
    assert low.words == "band from"
    assert (marked.resistance_ohm, marked.reactance_ohm) == pytest.approx((50.0, 0.0), abs=0.01)


def test_a_sweep_of_the_fixed_antenna_enters_the_budget(owner_client, study):
    add(owner_client, study, resonant_at(830), antenna="mast whip")
    rig = study.rigs.get()
    rig.fixed_antenna, rig.fixed_sweep = "mast whip", Sweep.objects.get()
    save_rig(study, rig)
    rig.refresh_from_db()
    assert rig.fixed_vswr == pytest.approx(2.387, abs=0.01)
    (loss,) = fixed_end(rig).losses
    assert loss.loss_db == pytest.approx(0.794, abs=0.01)
    rig.fixed_antenna = "another"
    with pytest.raises(ValidationError, match="sweep is of mast whip"):
        save_rig(study, rig)


def test_the_trim_says_value_unit_and_direction(owner_client, study):
    for mm, mhz in ((8, 880), (6, 874)):
        add(
            owner_client,
            study,
            resonant_at(mhz),
            series="coil",
            changed="distance to iron, mm",
            value=str(mm),
        )
    (log,) = trim_logs(Sweep.objects.all())
    assert (log.what, log.unit) == ("distance to iron", "mm")
    assert log.towards.endswith("mm less than last")
    html = make.html(owner_client.get(reverse("shelf:sweeps", args=[study.pk])))
    assert f"mm next, {log.towards}, for 866.5 MHz" in html
