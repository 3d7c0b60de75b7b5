"""What was once let through, once a 500, or once kept in a store: each a fault that must not return."""

import pytest
from django.core.exceptions import ValidationError
from django.test import RequestFactory
from django.urls import reverse

from inchmark.pages.middleware import peer_address
from inchmark.shelf.models import Battery
from inchmark.shelf.services.parts import save_part
from inchmark.shelf.services.rigs import save_rig
from tests import make

pytestmark = pytest.mark.django_db


def test_a_body_in_another_character_set_is_refused_and_utf_8_is_read(owner_client, study):
    page = reverse("studies:study-edit", args=[study.pk])
    odd = owner_client.generic("POST", page, "title=x", "application/json; charset=utf-16")
    assert odd.status_code == 415
    assert "send it as UTF-8" in make.html(odd)
    plain = owner_client.generic(
        "POST", page, "title=x", "application/x-www-form-urlencoded; charset=utf-8"
    )
    assert plain.status_code in (302, 422)


@pytest.mark.parametrize("there", ["foo", "//elsewhere.example/", "https://elsewhere.example/", ""])
def test_a_side_note_sends_back_only_to_a_page_of_ours(owner_client, study, there):
    page = reverse("studies:note-decide", args=[study.pk])
    response = owner_client.post(page, {"next": there, "code": "no_site", "decision": "accepted"})
    assert response.status_code == 302
    assert response.url == study.get_absolute_url()


@pytest.mark.parametrize("duty", ["0", "150", "-1"])
def test_a_duty_cycle_that_is_none_gives_a_sentence(study, duty):
    rig = study.rigs.get()
    rig.duty_cycle_percent = float(duty)
    with pytest.raises(ValidationError) as wrong:
        save_rig(study, rig)
    assert "%" in " ".join(wrong.value.messages)


def test_a_battery_of_which_nothing_is_usable_gives_a_sentence(study):
    with pytest.raises(ValidationError) as wrong:
        save_part(study, Battery(name="cell", capacity_ah=2.4, usable_percent=0))
    assert "%" in " ".join(wrong.value.messages)


def test_a_header_from_the_line_tells_no_address():
    request = RequestFactory().get("/", HTTP_X_FORWARDED_FOR="203.0.113.9", REMOTE_ADDR="127.0.0.1")
    assert peer_address(request) == "127.0.0.1"


def test_forged_addresses_do_not_evade_the_lock(client):
    make.user("anna")
    for i in range(8):
        response = client.post(
            reverse("people:sign-in"),
            {"username": "anna", "password": "wrong"},
            HTTP_X_FORWARDED_FOR=f"203.0.113.{i}",
        )
    assert response.status_code == 429


def test_private_pages_are_kept_by_no_store_and_ask_for_no_device(owner_client, study):
    for name in ("read:reading", "shelf:rigs", "decide:decide", "walk:walks"):
        response = owner_client.get(reverse(name, args=[study.pk]))
        assert "no-store" in response["Cache-Control"], name
        assert "camera=()" in response["Permissions-Policy"], name
    # a file may lie with who asked for it, who must ask again each time
    export = owner_client.get(reverse("read:export-stops", args=[study.pk]))
    assert export["Cache-Control"] == "private, no-cache"


def test_the_what_if_form_carries_no_token_in_its_address(reader, walked):
    html = make.html(reader.get(reverse("decide:decide", args=[walked.pk]), {"rig": "A"}))
    form = html[html.index("data-what-if") - 600 :] if "data-what-if" in html else html
    getting = [part.split("</form>")[0] for part in form.split("<form") if 'method="get"' in part]
    assert getting
    assert all("csrfmiddlewaretoken" not in part for part in getting)
