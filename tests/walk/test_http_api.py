"""The page of the HTTP API says what its code takes and answers."""

import json

import pytest
from django.urls import reverse

from inchmark.formats.openapi import operations
from inchmark.walk.api import LinesIn, api
from tests import make

pytestmark = pytest.mark.django_db


def test_the_page_names_every_door_and_every_part(owner_client):
    page = owner_client.get(reverse("http-api"))
    doors = ["POST /api/walks/{walk_id}/frames", "POST /api/walks/{walk_id}/lines"]
    assert make.missing(page, [*doors, *LinesIn.model_fields, "at most 2,000", "Retry-After"]) == []


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
