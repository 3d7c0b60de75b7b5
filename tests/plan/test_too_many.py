"""A plan larger than any day: said in a sentence, quick, and its counts can still be typed."""

import pytest
from django.urls import reverse

from inchmark.plan.figures.clock import MOST_VISITS
from inchmark.plan.models import Stop
from tests import make


@pytest.fixture
def large(owner_client, study):
    for letter in "CDEF":
        make.rig(study, letter)
    rigs = study.rigs.count()
    more = MOST_VISITS // rigs + 1
    Stop.objects.bulk_create(
        Stop(study=study, label=f"far {i}", distance_m=1000.0 + i) for i in range(more)
    )
    return study


@pytest.mark.parametrize("page", ["plan:design", "plan:day"])
def test_a_plan_of_too_many_visits_says_so(owner_client, large, page):
    html = make.html(owner_client.get(reverse(page, args=[large.pk])))
    assert f"an order of work is drawn for {MOST_VISITS:,} at most" in html
    assert len(html) < 1_500_000


def test_counts_of_such_a_plan_can_still_be_typed(owner_client, large):
    walk = make.walk(large)
    page = reverse("walk:counts", args=[large.pk, walk.pk]) + "?stop=far 3"
    html = make.html(owner_client.get(page))
    assert 'name="A-1-sent"' in html
    assert 'name="F-1-sent"' in html


def test_the_live_page_of_such_a_plan_names_no_next_visit(owner_client, large):
    walk = make.walk(large)
    html = make.html(owner_client.get(reverse("walk:desk", args=[large.pk, walk.pk])))
    assert "Next in the plan" not in html
