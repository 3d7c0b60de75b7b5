"""Typed values kept as JSON."""

import json
from dataclasses import dataclass

from inchmark.core.interval import Estimate
from inchmark.formats.reading_json import estimate_json
from inchmark.formats.stored import Stored


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    reach: Estimate | None
    rows: tuple[tuple[str, Estimate], ...] = ()


ENDLESS = Estimate(1.0, float("-inf"), 2.0)


def test_a_value_comes_back_from_json_as_it_was_infinite_limits_too():
    stored, value = Stored(Kept, version=3), Kept(reach=ENDLESS, rows=(("A", ENDLESS),))
    assert stored.load(json.loads(json.dumps(stored.dump(value), allow_nan=False))) == value


def test_another_version_or_a_foreign_shape_is_nothing():
    stored = Stored(Kept, version=3)
    assert stored.load(Stored(Kept, version=2).dump(Kept(reach=None))) is None
    assert stored.load({"schema": 3, "value": {"reach": {"estimate": "near"}}}) is None
    assert stored.load({"rigs": {}}) is None
    assert stored.load(None) is None


def test_printed_json_has_null_for_an_infinite_limit():
    assert estimate_json(ENDLESS) == {"estimate": 1.0, "low": None, "high": 2.0}
    assert estimate_json(None) == {"estimate": None, "low": None, "high": None}
