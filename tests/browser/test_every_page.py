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


@pytest.mark.parametrize("half", [0, 1])
def test_every_page_passes_axe_and_fits_a_phone_and_a_zoom_of_200_per_cent(
    signed_in, live_server, furnished, half
):
    """1280 px at 200 % are 640 px. In halves, so that two browsers share the work."""
    page, (study, ids) = signed_in, furnished
    urls = [url for one in addresses() if one.of_study for url in one.urls(ids, study)]
    found, wide = {}, {}
    for url in [*ELSEWHERE, *sorted(set(urls))][half::2]:
        if not is_page(page, f"{live_server.url}{url}"):
            continue
        page.goto(f"{live_server.url}{url}")
        found[url] = serious_axe_findings(page)
        for width in (1280, 640, 390):
            page.set_viewport_size({"width": width, "height": 800})
            over = page.evaluate("document.documentElement.scrollWidth - innerWidth")
            if over > 1:
                wide[url, width] = over
        page.set_viewport_size({"width": 1280, "height": 800})
    assert {where: what for where, what in found.items() if what} == {}
    assert wide == {}
    assert len(found) >= LEAST // 2
