"""The page of work in the background: what failed, why, and a press that tries it again."""

import pytest
from django.urls import reverse

from inchmark.plan.models import Design, SiteMap
from inchmark.read.services import make_reading, record_failure
from inchmark.upkeep.services.work import ASKS, FAILED, WAITS, work_of
from inchmark.walk.models import FrameFile
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def troubled():
    """A study in which one of each kind failed."""
    study = make.field_study(rigs="A", stops=2)
    walk = make.walk(study)
    make.log(walk, make.frames_log(), name="good.csv")
    bad = make.log(walk, b"PK\x03\x04 an archive", name="bad.zip")
    assert bad.state == FrameFile.FAILED
    study.refresh_from_db()
    record_failure(study.pk, "The matrix is singular.")
    SiteMap.objects.create(
        study=study, rig=study.rigs.get(), state=Design.FAILED, problem="There is no terrain."
    )
    Design.objects.create(study=study, power_state=Design.FAILED)
    return study


def test_every_kind_that_failed_is_there_with_its_reason_and_a_way_to_try_again(client, troubled):
    client.force_login(make.owner(troubled))
    page = make.html(client.get(reverse("upkeep:work", args=[troubled.pk])))
    for words in ("bad.zip", "The matrix is singular.", "There is no terrain.", "The power of"):
        assert words in page
    failed = [one for one in work_of(troubled) if one.failed]
    assert len(failed) == 4
    for one in failed:
        assert one.reason
        assert client.post(one.again).status_code in (302, 200)
    troubled.refresh_from_db()
    states = {one.what: one.state for one in work_of(troubled)}
    assert states["the reading"] == WAITS
    assert states["the log bad.zip of walk 1"] == WAITS


def test_what_is_done_leaves_the_page(client):
    study = make.field_study(rigs="A", stops=2)
    make.log(make.walk(study), make.frames_log())
    study.refresh_from_db()
    assert [one.what for one in work_of(study)] == ["the reading"]
    make_reading(study.pk)
    client.force_login(make.owner(study))
    page = make.html(client.get(reverse("upkeep:work", args=[study.pk])))
    assert "All is done" in page
    assert "hx-get" not in page.split('id="work"')[1].split(">")[0]


def test_a_log_that_waits_for_its_recipe_leads_there():
    study = make.field_study(rigs="A", stops=2)
    file = make.log(make.walk(study), make.frames_log())
    FrameFile.objects.filter(pk=file.pk).update(state=FrameFile.ASKING)
    one = next(one for one in work_of(study) if "log" in one.what)
    assert (one.state, one.again) == (ASKS, "")
    assert one.where == reverse("walk:recipe", args=[study.pk, file.pk])


def test_failed_comes_first(troubled):
    order = [one.state for one in work_of(troubled)]
    assert order == sorted(order, key=[FAILED, ASKS, WAITS].index)


def test_the_page_asks_the_database_no_more_for_more_logs(
    client, troubled, django_assert_max_num_queries
):
    walk = troubled.walks.get()
    for number in range(8):
        make.log(walk, b"PK\x03\x04 %d" % number, name=f"{number}.zip")
    client.force_login(make.owner(troubled))
    with django_assert_max_num_queries(14):
        client.get(reverse("upkeep:work", args=[troubled.pk]))
