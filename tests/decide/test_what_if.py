"""What-ifs, items with a value of their own, thresholds, and the legal check."""

import pytest
from django.core.exceptions import ValidationError
from django.urls import reverse

from inchmark.core.budget import ItemKey
from inchmark.core.wording import distance
from inchmark.decide.figures.budgets import WhatIf, budgets, rig_budget
from inchmark.decide.forms import typed_item
from inchmark.decide.services.budget import keep_as_rig, set_item
from inchmark.read.services import make_reading
from inchmark.shelf.models import BudgetItem
from inchmark.shelf.services.rigs import save_rig
from tests import make

pytestmark = pytest.mark.django_db


def page(study):
    return reverse("decide:decide", args=[study.pk])


def budget_of(study, letter="A", limited_by="", **changes):
    ground = make.ground(study)
    rig = next(one for one in ground.rigs if one.letter == letter)
    items = {ItemKey(key): db for key, db in changes.items()}
    return rig_budget(ground, rig, WhatIf(changes=items, limited_by=limited_by))


def test_a_what_if_moves_both_directions_as_far_as_it_should(walked):
    plain = budget_of(walked)
    changed = budget_of(walked, carried_antenna=plain.items["carried_antenna"] + 3.0)
    for before, after in zip(plain.directions, changed.directions, strict=True):
        assert after.in_hand_db - before.in_hand_db == pytest.approx(3.0)
    louder = budget_of(walked, carried_power=20.0)
    assert louder.in_hand_db - plain.in_hand_db == pytest.approx(6.0)
    assert louder.directions[1].in_hand_db == pytest.approx(plain.directions[1].in_hand_db)
    assert louder.legal[0].emission.eirp_dbm == pytest.approx(20 + 2.15)


def boxes(budget, **changes):
    """What the page's boxes send: every item as it is drawn, and what was typed over."""
    shown = {key.value: f"{key.adds_db(db):.2f}" for key, db in budget.items.items()}
    return {"rig": budget.rig.letter} | shown | changes


def test_boxes_as_shown_change_nothing(reader, walked):
    html = make.html(reader.get(page(walked), boxes(budget_of(walked))))
    assert "nothing is saved" in html
    assert "Keep as a new rig" not in html


def test_a_changed_box_changes_the_page_and_saves_nothing(reader, walked):
    typed = boxes(budget_of(walked), carried_antenna="6")
    part = make.html(reader.get(page(walked), typed, headers={"HX-Request": "true"}))
    assert part.lstrip().startswith('<section id="budget"')
    assert 'id="tape"' in part
    assert 'hx-swap-oob="true"' in part
    assert "what if</text>" in part  # the rig's range on the tape, where it would move to
    assert "range-was" in part
    assert "Keep as a new rig" in part
    assert "as it is" in part
    assert not BudgetItem.objects.exists()


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"carried_antenna": "six"}, "“six” is no number of dB"),
        ({"carried_antenna": "nan"}, "no possible number"),
        ({"carried_feed": "3"}, "a loss is written below zero, like -3"),
        ({"path": "120"}, "a loss is written below zero"),
    ],
)
def test_a_wrong_box_says_which_and_what_to_write(reader, walked, typed, words):
    html = make.html(reader.get(page(walked), boxes(budget_of(walked), **typed)))
    assert words in html


def test_a_what_if_is_kept_as_a_new_rig_that_differs_in_it_alone(reader, walked):
    keep = reverse("decide:keep-what-if", args=[walked.pk, walked.rigs.get(letter="A").pk])
    plain = budget_of(walked)
    response = reader.post(keep, boxes(plain, carried_antenna="6"), follow=True)
    assert "Kept as rig C" in make.html(response)
    item = walked.rigs.get(letter="C").budget_items.get()
    assert (item.key, item.db) == ("carried_antenna", 6.0)
    assert "not measured" in item.source
    make_reading(walked.pk)
    new = budget_of(walked, "C")
    assert new.measured  # the path that A walked
    assert new.items["path"] == pytest.approx(plain.items["path"])
    assert new.items["carried_antenna"] == 6.0


def test_the_path_alone_makes_no_rig(walked):
    with pytest.raises(ValidationError, match="the path belongs to the place"):
        keep_as_rig(walked.rigs.get(letter="A"), {"path": 100.0})


def test_a_measured_item_stands_in_and_leaves_what_arrived_as_it_was(reader, walked):
    """A lid measured at 3 dB explains part of the loss; the level that arrived stays."""
    rig = walked.rigs.get(letter="A")
    before = budget_of(walked)
    set_page = reverse("decide:item-set", args=[walked.pk, rig.pk])
    reader.post(set_page, {"key": "carried_housing", "db": "-3", "source": "lid on and off"})
    make_reading(walked.pk)
    after = budget_of(walked)
    assert after.items["carried_housing"] == 3.0
    assert after.items["path"] == pytest.approx(before.items["path"] - 3.0)
    there = [one.directions[0].budget.arriving_dbm for one in (before, after)]
    assert there[0] == pytest.approx(there[1])
    html = make.html(reader.get(page(walked), {"rig": "A"}))
    assert "lid on and off" in html
    reader.post(reverse("decide:item-drop", args=[walked.pk, BudgetItem.objects.get().pk]))
    assert not BudgetItem.objects.exists()


def test_an_item_given_twice_keeps_the_last_and_a_gain_for_a_loss_is_refused(reader, walked):
    rig = walked.rigs.get(letter="A")
    set_item(rig, "carried_feed", 1.0, "first")
    set_item(rig, "carried_feed", 2.0, "second")
    assert rig.budget_items.get().db == 2.0
    set_page = reverse("decide:item-set", args=[walked.pk, rig.pk])
    typed = {"key": "carried_feed", "db": "2", "source": "x"}
    assert "below zero" in reader.post(set_page, typed, follow=True).content.decode()
    assert rig.budget_items.get().db == 2.0


def test_the_receiver_can_be_limited_by_what_is_known(walked):
    rig = walked.rigs.get(letter="A")
    rig.sensitivity_dbm = -118.0
    save_rig(walked, rig)
    plain = budget_of(walked)
    assert [one.key for one in plain.thresholds] == ["walked", "datasheet", "noise-figure"]
    assert plain.directions[0].threshold.key == "walked"
    sheet = budget_of(walked, limited_by="datasheet").directions[0]
    assert sheet.threshold.dbm == pytest.approx(-118.0 - 2.3263 * 1.2, abs=1e-3)  # stated at 1 %
    assert sheet.in_hand_limits is None
    assert budget_of(walked, limited_by="nonsense").directions[0].threshold.key == "walked"


def test_noise_logged_at_the_stops_is_a_threshold_too():
    study = make.field_study(stops=3, needed_m=150.0)
    rows = [f"A,{s},{i},1,{-80 - 8 * s},-110" for s in (1, 2, 3) for i in range(20)]
    make.log(make.walk(study), "rig,stop,seq,heard,rssi_dbm,noise_dbm\n" + "\n".join(rows) + "\n")
    make_reading(study.pk)
    found = {one.key: one for one in budget_of(study).thresholds}
    # SF7 needs -7.5 dB at 1 % loss, which is 2.79 dB over half loss
    assert found["site-noise"].dbm == pytest.approx(-110 - 7.5 - 2.79, abs=0.01)


def test_a_known_rssi_offset_moves_levels_and_no_margin(walked):
    before = budget_of(walked)
    rig = walked.rigs.get(letter="A")
    rig.rssi_offset_db = 4.0
    rig.save()
    make_reading(walked.pk)
    after = budget_of(walked)
    there = [one.directions[0].budget.arriving_dbm for one in (before, after)]
    assert there[1] == pytest.approx(there[0] - 4)
    assert after.in_hand_db == pytest.approx(before.in_hand_db)


@pytest.mark.parametrize(
    ("name", "value", "said"),
    [
        ("power_dbm", 27.0, ["A, carried end: 13.0 dB over the limit", "868–868.6 MHz", "! over"]),
        ("period_s", 1.0, ["too much of the time on air"]),
        ("frequency_hz", 500e6, ["no row of the table covers"]),
    ],
)
def test_what_the_law_refuses_is_a_caution_with_the_row_it_breaks(
    reader, walked, name, value, said
):
    rig = walked.rigs.get(letter="A")
    setattr(rig, name, value)
    save_rig(walked, rig)
    html = make.html(reader.get(page(walked), {"rig": "A"}))
    assert [words for words in said if words not in html] == []


def test_places_not_walked_keep_something_for_shadowing(study):
    """One-sided normal quantile of 90 % is 1.2816 (tables); times 6 dB of places and 3.23 of frames."""
    (one,) = budgets(make.ground(study))
    assert one.directions[0].keep_db == pytest.approx(1.2816 * (6 + 3.231), abs=0.01)
    assert "6 dB, as the plan has it" in one.directions[0].keep_source


def test_what_the_walk_says_of_carrying_can_be_taken_over(client):
    study = make.field_study(stops=3, needed_m=150.0)
    rows = [
        f"A,{s},{i},1,{-70 - 9 * s - 8 * (how == 'pocket') + i % 3},{how}"
        for s in (1, 2, 3)
        for how in ("", "pocket")
        for i in range(30)
    ]
    header = "rig,stop,seq,heard,rssi_dbm,condition\n"
    make.log(make.walk(study), header + "\n".join(rows) + "\n")
    make_reading(study.pk)
    ((name, loss),) = budget_of(study).walked_carries
    assert name == "pocket"
    assert loss.low < 8 < loss.high
    client.force_login(make.owner(study))
    assert "Take it over" in client.get(page(study)).content.decode()
    typed = {"key": "carried_carry", "db": f"{-loss.estimate:.2f}", "source": "walked, pocket"}
    client.post(reverse("decide:item-set", args=[study.pk, study.rigs.get().pk]), typed)
    assert budget_of(study).items["carried_carry"] == pytest.approx(loss.estimate, abs=0.01)


def test_items_of_others_are_404(client, walked):
    rig = walked.rigs.get(letter="A")
    item = set_item(rig, "carried_feed", 1.0, "x")
    client.force_login(make.member(walked))
    for name, key in (("keep-what-if", rig.pk), ("item-set", rig.pk), ("item-drop", item.pk)):
        assert client.post(reverse(f"decide:{name}", args=[walked.pk, key])).status_code == 404


def test_no_token_travels_in_the_address_of_a_what_if(reader, walked):
    html = make.html(reader.get(page(walked), boxes(budget_of(walked), carried_antenna="6")))
    form = html[html.index('<form id="what-if"') :]
    assert "csrfmiddlewaretoken" not in form[: form.index("</form>")]


def test_the_items_of_the_database_are_the_items_of_a_budget():
    known = {key for key, _ in BudgetItem.ITEMS}
    assert known == {item.value for item in ItemKey if item is not ItemKey.PATH}


def test_a_what_if_comes_to_metres_and_is_held_against_module_and_limits(reader, walked):
    rig = walked.rigs.get(letter="B")
    address = reverse("decide:decide", args=[walked.pk])
    html = make.html(reader.get(f"{address}?rig=B&carried_power=500 mW"))
    reach = make.reading(walked).of_rig("B").loss_range_m.estimate
    assert "It would reach" in html
    assert f"as it is {distance(reach)}" in html
    assert "over the limit of" in html
    assert rig.power_dbm < 27


@pytest.mark.parametrize(
    ("key", "typed", "db"),
    [
        ("carried_power", "50 mW", 16.9897), ("carried_power", "17 dBm", 17), ("carried_power", "17", 17),
        ("carried_antenna", "0 dBd", 2.15), ("carried_antenna", "3 dB", 3), ("carried_feed", "−1,5 dB", -1.5),
    ],
)  # fmt: skip
def test_figures_are_typed_in_the_units_people_use(key, typed, db):
    assert typed_item(key, typed) == pytest.approx(db, abs=1e-3)


def test_what_is_no_figure_is_said():
    with pytest.raises(ValueError, match="is no number of dB"):
        typed_item("carried_feed", "much")
