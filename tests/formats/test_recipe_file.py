"""Recipe files: what is written is read back, the schema is the one shipped, what is wrong says where."""

import json
from pathlib import Path

import pytest

from inchmark.core.recipe.propose import propose
from inchmark.formats.console_text import console_lines
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.recipe_file import (
    NamedRecipe,
    read_recipes,
    recipe_from_json,
    recipe_schema,
    recipe_text,
    recipe_to_json,
)
from inchmark.formats.timeline_file import read_track
from tests.dialects import DIALECTS, walk

SCHEMA = Path(__file__).resolve().parents[2] / "docs" / "recipe.schema.json"


@pytest.mark.parametrize("name", ["a counter in hex", "per cent", "foreign heads, decimal commas"])
def test_a_recipe_is_read_back_as_it_was_written(name):
    recipe = propose(DIALECTS[name].write(walk()).splitlines()).recipe
    text = recipe_text([NamedRecipe(made_for="board.log", recipe=recipe)])
    assert read_recipes(text.encode())[0].recipe == recipe
    assert recipe_from_json(json.loads(json.dumps(recipe_to_json(recipe)))) == recipe


def test_the_schema_shipped_is_what_files_are_checked_by():
    assert json.loads(SCHEMA.read_text()) == recipe_schema()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"{", "no JSON"),
        (b"{}", "wrong at recipes"),
        (b'{"format": "inchmark recipe", "version": 2, "recipes": []}', "wrong at version"),
        (b'{"recipes": [{"recipe": {"uses": [{"name": "x", "meaning": "colour"}]}}]}', "meaning"),
        (b"x" * 1_000_001, "under 1 MB"),
    ],
)
def test_a_file_that_is_no_recipe_says_where(data, words):
    with pytest.raises(UnreadableFileError, match=words):
        read_recipes(data)


def test_text_of_any_encoding_is_lines_and_what_is_no_text_says_so():
    for text in ("\ufeffone\r\ntwo".encode(), "one\ntwo".encode("utf-16"), b"one\rtwo"):
        assert [line.text for line in console_lines([text[:5], text[5:]])] == ["one", "two"]
    wide = "one\ntwo three four".encode("utf-16-le")
    assert next(console_lines([wide])).text == "one"
    assert next(console_lines([b"7\xb0C\n"])).text == "7°C"
    for data in (
        b"PK\x03\x04",
        b"\x1f\x8b\x08",
        b"%PDF-1",
        b"SQLite format 3\x00",
        b"\x00\x01\x00" * 99,
    ):
        with pytest.raises(UnreadableFileError):
            list(console_lines([data]))
    assert list(console_lines([])) == []


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"<gpx", "no GPX"),
        (b'<!DOCTYPE x><gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"/>', "entities"),
        (
            b'<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"/>',
            "has a time",
        ),
    ],
)
def test_a_track_that_places_nothing_says_why(data, words):
    with pytest.raises(UnreadableFileError, match=words):
        read_track(data)


def test_a_gpx_track_keeps_what_is_said_of_each_fix():
    point = '<trkpt lat="54.2" lon="7.9"><time>2026-11-14T09:00:0{}Z</time>{}</trkpt>'
    told = "<fix>dgps</fix><sat>11</sat><hdop>0.8</hdop><ageofdgpsdata>4</ageofdgpsdata>"
    points = "".join(point.format(i, said) for i, said in enumerate((told, "", "<fix>none</fix>")))
    head = '<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>'
    found = read_track(f"{head}{points}</trkseg></trk></gpx>".encode())
    assert [one[3:] for one in found] == [(0.8, 11, 2, 4.0), (None, None, None, None)]
