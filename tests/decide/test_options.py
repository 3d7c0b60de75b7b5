"""Options on the page: filtered by figures, drawn, walked or only computed, nothing hidden."""

import re

import pytest
from django.urls import reverse

from inchmark.decide.figures.options import COMPUTED, FEED_FIXED, PARTLY, POWER, WALKED, count_of
from inchmark.decide.services.options import allowed_of, options_for, walked_with_draws, without
from inchmark.read.services import make_reading
from inchmark.shelf.adapters.parts import feed_figures
from inchmark.shelf.models import Module, Setting
from inchmark.shelf.services.shelf_files import starter_shelf, take_in
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def shelved(walked):
    """The walked study with the starter shelf and rig A made of its parts."""
    take_in(walked, starter_shelf())
    module = Module.objects.get(study=walked, name="Dulse L8")
    for rig in walked.rigs.all():
        rig.module_part, rig.module = module, module.name
        rig.save()
    make_reading(walked.pk)
    return walked


def page(client, study, query=""):
    return make.html(client.get(reverse("decide:options", args=[study.pk]) + query))


def test_every_combination_stands_with_how_far_it_was_walked(reader, shelved):
    found = options_for(shelved, allowed_of(shelved), [])
    assert {one.basis for one in found} >= {WALKED, PARTLY, COMPUTED}
    assert any(one.stands_out for one in found)
    assert len(
        {
            (
                o.module,
                o.setting,
                o.antenna,
                o.fixed_antenna,
                o.fixed_feed,
                o.battery,
                round(o.power_dbm, 1),
                "" if o.not_walked else o.beside,
            )
            for o in found
        }
    ) == len(found)
    for one in found[:200]:
        least = None if one.latency_s is None else one.latency_s - one.airtime_s
        assert least is None or least == 0 or least >= 3600 / one.per_hour - 1e-6
    assert any(one.latency_s == one.airtime_s for one in found)
    # rigs of the same parts were two rigs all the same
    letters = {one.rig.letter for one in walked_with_draws(shelved)}
    assert {one.beside for one in found if one.basis == WALKED} == letters
    html = page(reader, shelved)
    assert f"{len(found)} options" in html
    assert "partly walked: not the" in html


def test_filters_are_direct_and_say_what_they_cannot_read(reader, shelved):
    every = len(options_for(shelved, allowed_of(shelved), []))
    html = page(reader, shelved, "?bound-air=200&allowed=1")
    told = int(html.split("<h1>")[1].split()[0])
    assert 0 < told < every
    html = page(reader, shelved, "?bound-life=three")
    assert "battery: “three” is no number" in html
    assert "No option passes" in page(reader, shelved, "?bound-served=99")


def test_what_is_left_out_is_in_no_option(reader, shelved):
    setting = Setting.objects.filter(study=shelved, module__name="Dulse L8").last()
    assert setting.setting in page(reader, shelved, "?sort=air")
    html = page(reader, shelved, f"?without=setting-{setting.pk}&x=air&y=share&sort=share")
    assert f'value="setting-{setting.pk}" checked' in html
    assert "Frames delivered, %" in html


def test_without_a_walk_the_page_says_what_it_takes(owner_client, study):
    assert "It takes a walk" in page(owner_client, study)


def test_a_feed_at_the_fixed_end_is_an_option_with_its_loss_and_its_price(reader, shelved):
    found = options_for(shelved, allowed_of(shelved), [])
    rig = shelved.rigs.order_by("letter").first()
    fed = [
        one
        for one in found
        if one.fixed_feed and one.not_walked == (FEED_FIXED,) and one.beside == rig.letter
    ]
    assert fed
    for one in fed:
        feed = shelved.feed_parts.get(name=one.fixed_feed)
        lost = feed_figures(feed, rig.frequency_hz).loss_db
        assert one.gain_db == pytest.approx(rig.fixed_feed_loss_db - lost, abs=1e-6)
    assert fed[0].fixed_feed in page(reader, shelved)
    left_out = [f"feed-{one.pk}" for one in shelved.feed_parts.all()]
    query = "?" + "&".join(f"without={one}" for one in left_out)
    assert f", {fed[0].fixed_feed};" not in page(reader, shelved, query)


def test_weights_order_options_say_what_they_hang_on_and_hide_none(reader, shelved):
    every = len(options_for(shelved, allowed_of(shelved), []))
    html = page(reader, shelved, "?weight-life=5&weight-served=1&sort=weights")
    assert "By these weights" in html
    assert "halved" in html
    assert f"{every} options" in html
    scores = [int(one) for one in re.findall(r'<td class="num">(\d+)</td>\s*</tr>', html)]
    assert scores == sorted(scores, reverse=True)
    assert len(scores) == 60
    html = page(reader, shelved, "?weight-life=much")
    assert "Weight of battery: “much” is no number from 0 to 100." in html
    assert "By these weights" not in html


def test_powers_in_between_are_options_of_their_own_within_module_and_limit(reader, shelved):
    allowed = allowed_of(shelved)
    plain = options_for(shelved, allowed, [])
    found = options_for(shelved, without(allowed, [], [2.0, 8.0, 30.0]), [])
    assert len(found) > len(plain)
    low = [one for one in found if one.power_dbm == 2.0 and POWER in one.not_walked]
    own = {
        (o.setting, o.antenna, o.fixed_antenna, o.fixed_feed, o.battery): o
        for o in found
        if POWER not in o.not_walked
    }
    for one in low[:50]:
        high = own[one.setting, one.antenna, one.fixed_antenna, one.fixed_feed, one.battery]
        assert one.gain_db == pytest.approx(high.gain_db - (high.power_dbm - 2.0), abs=1e-6)
        assert one.expected <= high.expected
    assert not any(one.power_dbm == 30.0 for one in found)
    most = without(allowed, [], [2.0, 8.0, 30.0])
    assert len(found) <= count_of(walked_with_draws(shelved), most)
    html = page(reader, shelved, "?powers=2, 25 mW; 30 dBm")
    assert "No option at 30 dBm" in html
    assert any(one.basis_words == "partly walked: not the power" for one in low)
    assert "Powers: “loud” is not" in page(reader, shelved, "?powers=loud")
    many = ",".join(map(str, range(13)))
    assert "13 are typed; 12 are the most" in page(reader, shelved, f"?powers={many}")
