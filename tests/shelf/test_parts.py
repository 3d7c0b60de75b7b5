"""Parts: kept, changed, archived, refused while used; rigs follow them."""

import json

import pytest
from django.core.exceptions import ValidationError
from django.db import IntegrityError
from django.urls import reverse

from inchmark.shelf.adapters.ends import carried_end, sensitivity_of
from inchmark.shelf.adapters.parts import chain_of, feed_figures
from inchmark.shelf.figures.parts import wire_lengths
from inchmark.shelf.figures.rigs import difference_table
from inchmark.shelf.models import Antenna, Battery, Feed, Module, Rig, Setting, Unit
from inchmark.shelf.services.parts import remove_part, save_part
from inchmark.shelf.services.rigs import save_rig
from inchmark.shelf.services.shelf_files import starter_shelf, take_in
from tests import make

pytestmark = pytest.mark.django_db
MODULE = {
    "name": "Kelp L4",
    "connector": "sma-f",
    "supply_v": "3.3 V",
    "crystal_ppm": "10",
    "power_low_dbm": "0 dBm",
    "power_high_dbm": "25 mW",
    "power_step_db": "1",
    "transmit_currents": "0 dBm, 18 mA\n14 dBm, 40 mA",
    "bands": "863 MHz, 870 MHz",
    "noise_figure_db": "6",
    "sensitivities": "SF7 125 kHz, -124, 1",
    "rssi_offset_db": "0",
    "sleep_a": "1.5 uA",
    "template": "{sf},{bw:code},{cr:code},{preamble}",
}


@pytest.fixture
def stocked(db):
    """A study with some of the starter shelf, and rig A composed of it."""
    study = make.study()
    take_in(study, few_parts())
    save_rig(study, composed(study))
    return study


def few_parts():
    """The starter shelf with one module, which is quicker to take in."""
    shelf = json.loads(starter_shelf())
    return json.dumps(shelf | {"modules": shelf["modules"][:1], "batteries": []}).encode()


@pytest.fixture
def keeper(client, stocked):
    """A browser signed in as its owner."""
    client.force_login(make.owner(stocked))
    return client


def composed(study, letter="A", **parts):
    """A rig of the starter shelf."""
    chosen = {
        "setting_part": study.settings.get(module__name="Dulse L8", name="SF7 125 kHz"),
        "antenna_part": study.antenna_parts.get(name="stub coil"),
        "feed_part": study.feed_parts.get(name="pigtail 0.1 m"),
        "fixed_antenna_part": study.antenna_parts.get(name="half-wave whip"),
        "fixed_feed_part": study.feed_parts.get(name="coax 1.2 m"),
    }
    return Rig(letter=letter, **chosen | parts)


def add(client, study, kind, **typed):
    return client.post(reverse("shelf:part-add", args=[study.pk, kind]), typed, follow=True)


def test_a_parts_form_folds_what_comes_later_into_its_values(owner_client, study):
    module = save_part(study, Module(name="Kelp", sleep_a=1.5e-6, crystal_ppm=20))
    html = make.html(owner_client.get(module.get_absolute_url()))
    assert "sleep 1.5 µA" in html
    assert "crystal tolerance (ppm) 20" in html.lower()
    response = owner_client.post(module.get_absolute_url(), {"name": "Kelp", "sleep_a": "5 kg"})
    assert response.status_code == 422
    folds = make.html(response).split('<details class="fold"')[1:]
    assert [one.startswith(" open") for one in folds if "Currents and supply" in one] == [True]


def test_a_module_is_typed_with_units(keeper, stocked):
    html = make.html(add(keeper, stocked, "modules", **MODULE))
    one = Module.objects.get(name="Kelp L4")
    assert one.power_high_dbm == pytest.approx(13.979, abs=1e-3)
    assert one.transmit_currents[1] == pytest.approx([14.0, 0.04])
    assert one.bands == [[863e6, 870e6]]
    assert one.sleep_a == pytest.approx(1.5e-6)
    assert "13.98 dBm" in html  # 25 mW shown back


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"name": "Dulse L8"}, "a module of that name already"),
        ({"power_low_dbm": "20 dBm"}, "highest power must not be under the lowest"),
        ({"transmit_currents": "14 dBm"}, "Line 1, “14 dBm”: write 2 values"),
        ({"transmit_currents": "14 dBm, 38 V"}, "Line 1: “38 V” is not a quantity in amperes"),
        ({"template": "{speed}"}, "“speed” is no field"),
        ({"noise_figure_db": "nan"}, "Enter a number"),
        ({"sleep_a": "-2 mA"}, "sleep a must be from"),
        ({"crystal_ppm": "1e9"}, "crystal ppm must be from"),
    ],
)
def test_a_wrong_module_keeps_what_was_typed(keeper, stocked, change, words):
    response = add(keeper, stocked, "modules", **MODULE | change)
    assert response.status_code == 422
    html = make.html(response)
    assert words in html
    assert "Not saved" in html
    assert "1.5 uA" in html or "sleep_a" in change
    assert Module.objects.filter(study=stocked).count() == 1


@pytest.mark.parametrize(
    ("typed", "dbi"), [("2.15 dBi", 2.15), ("0 dBd", 2.15), ("-2 dBi", -2.0), ("7 dBd", 9.15)]
)
def test_dbi_and_dbd_are_told_apart(keeper, stocked, typed, dbi):
    add(
        keeper,
        stocked,
        "antennas",
        name="rod",
        type="whip",
        gain_dbi=typed,
        polarisation="linear",
        connector="sma-m",
        impedance_ohm="50",
        wave="quarter",
        velocity_factor="0.95",
    )
    assert Antenna.objects.get(name="rod").gain_dbi == pytest.approx(dbi)


def test_a_gain_without_its_unit_is_refused(keeper, stocked):
    html = make.html(add(keeper, stocked, "antennas", name="rod", type="whip", gain_dbi="5"))
    assert "is no gain with its unit" in html


def test_a_magnetic_antenna_needs_its_loop_and_one_of_its_kind(stocked):
    with pytest.raises(ValidationError, match="needs its diameter and turns"):
        save_part(stocked, Antenna(name="loop", type="magnetic"))
    rod = stocked.antenna_parts.get(name="ferrite rod")
    with pytest.raises(ValidationError, match="couples to one of its kind"):
        save_rig(stocked, composed(stocked, "B", antenna_part=rod))


def test_a_wire_says_what_to_cut(keeper, stocked):
    """A quarter of 299.79/869.525 m at 0.95 is 81.9 mm; 3 % are left to trim."""
    wire = stocked.antenna_parts.get(name="quarter-wave wire")
    found = wire_lengths(wire)
    assert found.final_m == pytest.approx(0.0819, abs=1e-4)
    assert found.cut_m == pytest.approx(0.0843, abs=1e-4)
    assert "then trim towards" in keeper.get(wire.get_absolute_url()).content.decode()


def test_a_rig_takes_over_what_its_parts_say(stocked):
    rig = stocked.rigs.get()
    assert (rig.module, rig.antenna, rig.fixed_antenna) == (
        "Dulse L8",
        "stub coil",
        "half-wave whip",
    )
    assert (rig.spreading_factor, rig.antenna_gain_dbi, rig.noise_figure_db) == (7, -2.0, 7.0)
    assert rig.feed_loss_db == pytest.approx(0.2 + 0.1 * 2.16, abs=0.01)
    assert sensitivity_of(rig).source == "datasheet, 10 % PER"
    assert carried_end(rig).feed_source == "pigtail 0.1 m"


def test_a_rig_follows_when_its_part_changes(stocked):
    coil = stocked.antenna_parts.get(name="stub coil")
    coil.gain_dbi = 1.0
    before = stocked.revision
    save_part(stocked, coil)
    assert stocked.rigs.get().antenna_gain_dbi == 1.0
    stocked.refresh_from_db()
    assert stocked.revision > before


def test_a_setting_that_is_impossible_never_reaches_a_rig(stocked):
    setting = stocked.settings.get(module__name="Dulse L8", name="SF7 125 kHz")
    setting.bandwidth_hz = 900e3
    with pytest.raises(ValidationError, match=r"7.8 to 500 kHz"):
        save_part(stocked, setting)
    assert stocked.rigs.get().bandwidth_hz == 125e3


def test_a_used_part_is_not_deleted_but_archived(keeper, stocked):
    coil = stocked.antenna_parts.get(name="stub coil")
    page = reverse("shelf:part-remove", args=[stocked.pk, "antennas", coil.pk])
    html = make.html(keeper.post(page, follow=True))
    assert "stub coil is used by rig A" in html
    assert "Archive it" in html
    keeper.post(
        reverse("shelf:part-archive", args=[stocked.pk, "antennas", coil.pk]), {"archived": "1"}
    )
    listed = reverse("shelf:parts", args=[stocked.pk, "antennas"])
    assert ">stub coil</a>" not in keeper.get(listed).content.decode()
    assert ">stub coil</a>" in keeper.get(listed, {"archived": "1"}).content.decode()
    assert stocked.rigs.get().antenna_part == coil
    assert (
        "stub coil"
        in keeper.get(
            reverse("shelf:rig-edit", args=[stocked.pk, stocked.rigs.get().pk])
        ).content.decode()
    )


def test_a_unit_a_walk_names_stays(stocked):
    walk = make.walk(stocked)
    unit = stocked.units.get(serial="L8-11")
    walk.units.create(rig=stocked.rigs.get(), unit=unit)
    with pytest.raises(ValidationError, match="L8-11 is used by rig A in walk 1"):
        remove_part(unit)


def test_a_unit_is_a_piece_of_one_thing(stocked):
    module, antenna = stocked.module_parts.first(), stocked.antenna_parts.first()
    for owner in ({}, {"module": module, "antenna": antenna}):
        with pytest.raises(ValidationError, match="one module or of one antenna"):
            save_part(stocked, Unit(serial="X", **owner))


def test_an_unused_part_is_deleted(keeper, stocked):
    panel = stocked.antenna_parts.get(name="six-element panel")
    keeper.post(reverse("shelf:part-remove", args=[stocked.pk, "antennas", panel.pk]))
    assert not Antenna.objects.filter(pk=panel.pk).exists()


@pytest.mark.parametrize("kind", ["modules", "antennas", "feeds", "batteries", "units"])
def test_every_kind_has_its_list_its_form_and_a_page_for_each(keeper, stocked, kind):
    html = make.html(keeper.get(reverse("shelf:parts", args=[stocked.pk, kind])))
    assert "on the shelf" in html
    assert keeper.get(reverse("shelf:part-add", args=[stocked.pk, kind])).status_code == 200
    models = {
        "modules": Module,
        "antennas": Antenna,
        "feeds": Feed,
        "batteries": Battery,
        "units": Unit,
    }
    for part in models[kind].objects.filter(study=stocked):
        assert keeper.get(part.get_absolute_url()).status_code == 200


@pytest.mark.parametrize("kind", ["modules", "antennas", "feeds", "batteries", "units"])
def test_an_empty_shelf_says_how_to_begin(client, kind):
    study = make.study()
    client.force_login(make.owner(study))
    html = make.html(client.get(reverse("shelf:parts", args=[study.pk, kind])))
    assert "bring the starter shelf in" in html


def test_an_unknown_kind_of_part_is_404(keeper, stocked):
    for name in ("parts", "part-add"):
        assert keeper.get(reverse(f"shelf:{name}", args=[stocked.pk, "spoons"])).status_code == 404


def names(html):
    return [line.split("</a>")[0].rsplit(">", 1)[1] for line in html.split('scope="row"')[1:]]


def test_lists_are_filtered_and_sorted_as_a_part_of_the_page(keeper, stocked):
    page = reverse("shelf:parts", args=[stocked.pk, "antennas"])
    part = make.html(keeper.get(page, {"q": "HALF-wave"}, headers={"HX-Request": "true"}))
    assert part.lstrip().startswith('<div id="part-list"')
    assert names(part) == ["half-wave whip", "half-wave whip, reverse"]
    html = make.html(keeper.get(page, {"sort": "-gain"}))
    assert names(html)[0] == "six-element panel"
    assert names(html)[-1] == "ferrite rod"  # no gain goes last
    assert 'aria-sort="descending"' in html
    assert "None of 7 has" in keeper.get(page, {"q": "zzz"}).content.decode()


def test_lists_cost_a_fixed_number_of_queries(keeper, stocked, django_assert_max_num_queries):
    for letter in "BCDEFG":
        save_rig(stocked, composed(stocked, letter))
    with django_assert_max_num_queries(12):
        keeper.get(reverse("shelf:rigs", args=[stocked.pk]))
    with django_assert_max_num_queries(10):
        keeper.get(reverse("shelf:parts", args=[stocked.pk, "units"]))


def test_strangers_find_no_part(client, stocked):
    client.force_login(make.user())
    part = stocked.module_parts.first()
    for url in (
        part.get_absolute_url(),
        reverse("shelf:parts", args=[stocked.pk, "modules"]),
        reverse("shelf:export", args=[stocked.pk]),
    ):
        assert client.get(url).status_code == 404


def test_a_viewer_looks_and_changes_nothing(client, stocked):
    client.force_login(make.member(stocked))
    part = stocked.module_parts.first()
    assert client.get(part.get_absolute_url()).status_code == 200
    assert client.post(part.get_absolute_url(), MODULE).status_code == 404
    remove = reverse("shelf:part-remove", args=[stocked.pk, "modules", part.pk])
    assert client.post(remove).status_code == 404


def test_a_reverse_antenna_is_caught_before_it_is_carried_out(keeper, stocked):
    reverse_whip = stocked.antenna_parts.get(name="half-wave whip, reverse")
    rig = save_rig(stocked, composed(stocked, "B", antenna_part=reverse_whip))
    ((end, found),) = chain_of(rig)
    assert end == "carried end"
    assert "hole meets hole and makes no contact" in found.words
    assert found.adapter == "adapter SMA male to RP-SMA female"
    html = make.html(keeper.get(reverse("shelf:rigs", args=[stocked.pk])))
    assert "Rig B, carried end: pigtail 0.1 m to half-wave whip, reverse" in html


def test_the_differences_say_which_comparison_is_clean(stocked):
    whip = stocked.antenna_parts.get(name="half-wave whip")
    slow = stocked.settings.get(module__name="Dulse L8", name="SF10 125 kHz")
    save_rig(stocked, composed(stocked, "B", antenna_part=whip))
    save_rig(stocked, composed(stocked, "C", antenna_part=whip, setting_part=slow))
    table = difference_table(list(stocked.rigs.with_parts()))
    assert table.things == ["setting", "antenna"]
    b, c = table.rows
    assert (b.count, c.count) == (1, 2)
    assert c.clean_with == [("B", "setting")]


def test_the_rssi_offset_is_calibrated_from_a_known_level(keeper, stocked):
    module = stocked.module_parts.get(name="Dulse L8")
    page = reverse("shelf:module-calibrate", args=[stocked.pk, module.pk])
    keeper.post(page, {"true_dbm": "-60 dBm", "reads_dbm": "-57.5", "source": "generator"})
    module.refresh_from_db()
    assert module.rssi_offset_db == pytest.approx(2.5)
    assert stocked.rigs.get().rssi_offset_db == pytest.approx(2.5)
    html = keeper.post(page, {"true_dbm": "x", "reads_dbm": "1", "source": "y"}, follow=True)
    assert "is not a quantity" in make.html(html)


def test_a_shelf_goes_out_and_comes_into_another_study(client):
    study = make.study()
    client.force_login(make.owner(study))
    take_in(study, starter_shelf())
    text = client.get(reverse("shelf:export", args=[study.pk])).content
    other = make.study(make.owner(study))
    added, known = take_in(other, text)
    assert added == 4 + 13 + 7 + 7 + 3 + 3 + 3
    assert known == []
    assert other.settings.count() == study.settings.count()
    again = take_in(other, text)
    assert again[0] == 0
    assert len(again[1]) == 17


def test_a_shelf_with_one_bad_part_is_not_taken_in_at_all(keeper, stocked):
    bad = starter_shelf().replace(b'"capacity_ah": 19.0', b'"capacity_ah": 1e9')
    assert bad != starter_shelf()
    study = make.study(make.owner(stocked))
    page = reverse("shelf:files", args=[study.pk])
    from django.core.files.uploadedfile import SimpleUploadedFile

    response = keeper.post(page, {"way": "file", "file": SimpleUploadedFile("s.json", bad)})
    html = make.html(response)
    assert response.status_code == 422
    assert "Nothing was taken in. D cell: The capacity ah must be from" in html
    assert study.module_parts.count() == 0


def test_the_starter_shelf_is_one_press_away(client):
    study = make.study()
    client.force_login(make.owner(study))
    page = reverse("shelf:files", args=[study.pk])
    html = make.html(client.post(page, {"way": "starter"}, follow=True))
    assert "parts, settings and units added" in html
    assert study.module_parts.count() == 4


def test_the_rules_table_is_shown_with_its_documents(keeper, stocked):
    html = make.html(keeper.get(reverse("shelf:rules", args=[stocked.pk])))
    assert "from memory" in html
    assert "licensed people decide" in html
    assert "869.4–869.65" in html


def test_the_database_refuses_what_a_form_would(stocked):
    module = stocked.module_parts.first()
    with pytest.raises(IntegrityError):
        Module.objects.filter(pk=module.pk).update(supply_v=float("nan"))


SETTING = {
    "name": "SF9",
    "modulation": "chirp",
    "frequency_hz": "868.3 MHz",
    "power_dbm": "25 mW",
    "payload_bytes": "20",
    "duty_cycle_percent": "1",
    "spreading_factor": "9",
    "payload_crc": "on",
    "explicit_header": "on",
}


def test_a_setting_is_read_from_a_string_and_kept(keeper, stocked):
    module = stocked.module_parts.get(name="Dulse L8")
    page = reverse("shelf:setting-add", args=[stocked.pk, module.pk])
    html = make.html(keeper.get(page, {"text": "8,6,3,14", "other": "8,7,3,14"}))
    assert "62.5 kHz" in html
    assert "must be the same at both ends" in html
    assert 'value="SF8 62.5 kHz"' in html
    assert "sets no transmit power" in html
    typed = SETTING | {
        "name": "SF8 62.5 kHz",
        "spreading_factor": "8",
        "bandwidth_hz": "62.5 kHz",
        "preamble": "14",
        "coding_rate": "7",
        "console": "8,6,3,14",
    }
    html = make.html(keeper.post(page, typed, follow=True))
    one = Setting.objects.get(name="SF8 62.5 kHz")
    assert (one.bandwidth_hz, one.coding_rate, one.preamble) == (62.5e3, 7, 14)
    assert one.power_dbm == pytest.approx(13.979, abs=1e-3)
    assert "SF8 62.5 kHz" in html


def test_a_string_that_does_not_fit_says_so_and_keeps_it(keeper, stocked):
    module = stocked.module_parts.get(name="Dulse L8")
    page = reverse("shelf:setting-add", args=[stocked.pk, module.pk])
    html = make.html(keeper.get(page, {"text": "8,6,3"}))
    assert "3 were found" in html
    assert 'value="8,6,3"' in html


def test_what_is_odd_in_a_kept_setting_is_said(keeper, stocked):
    module = stocked.module_parts.get(name="Dulse L8")
    page = reverse("shelf:setting-add", args=[stocked.pk, module.pk])
    typed = SETTING | {"power_dbm": "27 dBm", "frequency_hz": "915 MHz", "low_data_rate": "true"}
    html = make.html(keeper.post(page, typed, follow=True))
    assert "outside the module" in html
    assert "in none of the module" in html
    assert "only costs bit rate" in html


def test_a_setting_shows_what_it_costs(keeper, stocked):
    """SF7, 125 kHz, 16 bytes: 51.456 ms (formula of the check tables); 38 mA at 3.3 V: 6.45 mJ."""
    one = stocked.settings.get(module__name="Dulse L8", name="SF7 125 kHz")
    html = make.html(keeper.get(one.get_absolute_url()))
    for words in (
        "51.5 ms",
        "5469 bit/s",
        "6.45 mJ",
        "datasheet, 10 % PER",
        "6\N{NARROW NO-BREAK SPACE}996",
    ):
        assert words in html
    ladder = make.html(keeper.get(one.module.get_absolute_url()))
    assert ladder.index("SF7 250 kHz") < ladder.index("SF7 125 kHz") < ladder.index("SF12 125 kHz")


def test_a_setting_in_a_rig_is_archived_not_deleted(keeper, stocked):
    one = stocked.settings.get(module__name="Dulse L8", name="SF7 125 kHz")
    page = reverse("shelf:setting-remove", args=[stocked.pk, one.pk])
    assert "is used by rig A" in keeper.post(page, follow=True).content.decode()
    keeper.post(page, {"archived": "1"})
    one.refresh_from_db()
    assert one.archived
    free = stocked.settings.get(module__name="Dulse L8", name="SF9 125 kHz")
    keeper.post(reverse("shelf:setting-remove", args=[stocked.pk, free.pk]))
    assert not Setting.objects.filter(pk=free.pk).exists()


def test_a_rig_can_be_of_any_modulation(stocked):
    take_in(stocked, starter_shelf())
    others = stocked.settings.exclude(module__name="Dulse L8")
    for letter, setting in zip("BCDEFGH", others, strict=True):
        rig = save_rig(stocked, Rig(letter=letter, antenna="any", setting_part=setting))
        assert rig.modulation == setting.modulation
        assert sensitivity_of(rig).dbm < -80


def test_a_feed_may_be_a_chain_of_parts(client, study):
    """Two joints of 0.1 dB, an adapter of 0.2 dB, 10 m of coax with 1.2 dB at 217 MHz: twice at 868."""
    client.force_login(make.owner(study))
    links = (
        "adapter, SMA male, N female, 0.2 dB, 0 MHz\nlong coax, N male, SMA male, 1.2 dB, 217 MHz"
    )
    typed = {
        "name": "to the mast", "length_m": "0 m", "joints": "2", "joint_loss_db": "0.1",
        "near_connector": "sma-m", "far_connector": "sma-f", "impedance_ohm": "50", "links": links,
    }  # fmt: skip
    page = reverse("shelf:part-add", args=[study.pk, "feeds"])
    assert client.post(page, typed).status_code == 302
    feed = study.feed_parts.get()
    assert feed_figures(feed, 868e6).loss_db == pytest.approx(0.2 + 0.2 + 2.4)
    shown = make.html(client.get(feed.get_absolute_url()))
    assert "long coax, n-m, sma-m" in shown or "long coax" in shown
    wrong = typed | {"name": "other", "links": "adapter, SMA mail, N female, 0.2 dB, 0 MHz"}
    assert "“SMA mail” is no connector" in make.html(client.post(page, wrong))


def test_a_chain_that_does_not_fit_marks_rig_tape_and_budget_and_blocks_nothing(client, study):
    client.force_login(make.owner(study))
    feed = save_part(
        study,
        Feed(
            name="to the mast", near_connector="wire", far_connector="sma-f",
            links=[["adapter", "sma-f", "n-f", 0.2, 0.0]],
        ),
    )  # fmt: skip
    rig = study.rigs.get()
    rig.feed_part = feed
    save_rig(study, rig)
    html = make.html(client.get(reverse("shelf:rigs", args=[study.pk])))
    assert "to the mast to adapter: SMA female and SMA female do not go together" in html
    assert "! parts do not go together" in html
    assert f"! {rig.name}" in html  # on the tape
    html = make.html(client.get(reverse("decide:decide", args=[study.pk])))
    assert "parts that do not go together" in html
    assert "The budget reckons as if they did." in html
    assert "adapter SMA" in html


def test_loops_stand_at_both_ends_or_none_and_range_by_the_cube(client, study):
    loop = save_part(
        study, Antenna(name="loop", type="magnetic", gain_dbi=None, loop_diameter_m=0.1, turns=8)
    )
    rig = study.rigs.get()
    rig.antenna_part, rig.frequency_hz = loop, 13.56e6
    with pytest.raises(ValidationError, match="couples to one of its kind"):
        save_rig(study, rig)
    rig.fixed_antenna_part = loop
    save_rig(study, rig)
    rig.refresh_from_db()
    assert rig.antenna_gain_dbi == pytest.approx(-37.7, abs=0.2)
    make.stop(study, "near", 0.5)
    client.force_login(make.owner(study))
    html = make.html(client.get(reverse("plan:predicted", args=[study.pk])))
    assert "Magnetic coupling" in html or "inductive" in html.lower()
