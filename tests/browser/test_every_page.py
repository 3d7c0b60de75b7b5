"""Every page of the program's resolver, with something on it: nothing serious for axe."""

import pytest

from inchmark.people.models import User
from inchmark.read.services import make_reading
from tests import make
from tests.browser.conftest import serious_axe_findings
from tests.people.addresses import addresses, everything

pytestmark = pytest.mark.django_db(transaction=True)
# of no study and without a number in them
ELSEWHERE = (
    "/",
    "/studies/new/",
    "/studies/new/?asks=fault",
    "/begin/",
    "/bring/",
    "/across/",
    "/workbench/",
    "/account/",
    "/practice/",
    "/help/",
    "/help/?q=threshold",
    "/help/method/",
    "/help/glossary/",
    "/jump/?q=a",
)
LEAST = 60  # pages there are; fewer means that some were not opened


@pytest.fixture
def furnished(signed_in):
    """A study with one of each thing in it, read."""
    study = make.field_study(User.objects.get(username="demo"), rigs="AB", stops=3, needed_m=150.0)
    ids = everything(study)
    make_reading(study.pk)
    return study, ids


def is_page(page, address):
    """Tell whether an address answers with a whole page; parts and downloads are none."""
    answer = page.request.get(address)
    kind = answer.headers.get("content-type", "")
    return answer.status == 200 and kind.startswith("text/html") and "<main" in answer.text()


def test_axe_finds_nothing_serious_on_any_page_of_the_resolver(signed_in, live_server, furnished):
    page, (study, ids) = signed_in, furnished
    urls = [url for one in addresses() if one.of_study for url in one.urls(ids, study)]
    found, opened = {}, 0
    for url in [*ELSEWHERE, *sorted(set(urls))]:
        if is_page(page, f"{live_server.url}{url}"):
            page.goto(f"{live_server.url}{url}")
            found[url] = serious_axe_findings(page)
            opened += 1
    assert {where: what for where, what in found.items() if what} == {}
    assert opened >= LEAST


@pytest.mark.parametrize("width", [390, 640])
def test_no_page_is_wider_than_its_window_on_a_phone_or_at_200_per_cent(
    signed_in, live_server, furnished, width
):
    """1280 px at a zoom of 200 % are 640 px."""
    page, (study, ids) = signed_in, furnished
    page.set_viewport_size({"width": width, "height": 800})
    urls = [url for one in addresses() if one.of_study for url in one.urls(ids, study)]
    wide = {}
    for url in [*ELSEWHERE, *sorted(set(urls))]:
        if is_page(page, f"{live_server.url}{url}"):
            page.goto(f"{live_server.url}{url}")
            over = page.evaluate("document.documentElement.scrollWidth - innerWidth")
            if over > 1:
                wide[url] = over
    assert wide == {}
