"""The page of the HTTP API says what its code takes and answers."""

import json

import pytest
from django.urls import reverse

from inchmark.formats.openapi import operations
from inchmark.walk.api import api
from inchmark.walk.forms.lines import Lines
from tests import make

pytestmark = pytest.mark.django_db


def test_the_page_names_every_door_and_every_part(owner_client):
    page = owner_client.get(reverse("http-api"))
    doors = ["POST /api/walks/{walk_id}/frames", "POST /api/walks/{walk_id}/lines"]
    assert make.missing(page, [*doors, *Lines.model_fields, "at most 2,000", "Retry-After"]) == []


def test_what_is_told_comes_from_the_schema():
    found = {one.path.rsplit("/", 1)[1]: one for one in operations(api.get_openapi_schema())}
    lines = found["lines"]
    assert {part.name for part in lines.body if part.required} == {
        "source",
        "start",
        "first",
        "lines",
    }
    answers = {answer.status: answer for answer in lines.answers}
    assert [part.name for part in answers["409"].parts] == ["detail", "wanted"]
    assert {"200", "401", "404", "409", "422", "429"} <= set(answers)
    assert all(answer.meaning for one in found.values() for answer in one.answers)


def test_the_schema_is_a_file_too(client):
    schema = json.loads(client.get(reverse("api:openapi-json")).content)
    assert schema["openapi"].startswith("3.")
    assert "/api/walks/{walk_id}/lines" in schema["paths"]


def test_a_stranger_is_asked_to_sign_in(client):
    assert client.get(reverse("http-api")).status_code == 302


def test_a_token_of_a_walk_sends_into_that_walk_alone(owner_client, study):
    here, other = make.walk(study), make.walk(study)
    address = reverse("walk:token", args=[study.pk, here.pk])
    page = owner_client.post(address, {"name": "sea wall", "days": 7})
    secret = page.context["secret"]
    assert make.missing(page, [secret, "The token, once"]) == []
    owner_client.logout()
    assert make.post_frames(owner_client, secret, here) == 202
    assert make.post_frames(owner_client, secret, other) == 404


def test_a_token_of_a_walk_needs_a_name_and_an_end(owner_client, study):
    address = reverse("walk:token", args=[study.pk, make.walk(study).pk])
    page = owner_client.post(address, {"name": "", "days": 0})
    assert page.status_code == 422
    assert page.context["secret"] == ""


def test_a_viewer_makes_no_token(client, study):
    walk = make.walk(study)
    client.force_login(make.member(study, "viewer"))
    answer = client.post(reverse("walk:token", args=[study.pk, walk.pk]), {"name": "x", "days": 7})
    assert answer.status_code in (403, 404)
