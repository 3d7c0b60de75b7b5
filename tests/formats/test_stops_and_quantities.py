"""The stops file, and quantities as people type them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from inchmark.cli.study import stop_distances
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.quantities import read_power_dbm, read_quantity
from inchmark.formats.stops import read_stops
from inchmark.formats.study_file import StudyFile


def test_a_stops_file_gives_distances_and_how_they_were_measured():
    rows, bad = read_stops(b"stop,distance_m,method,plus_minus_m\n1,25,tape,0.5\n2,60.5,,\n")
    assert bad == []
    assert (rows[0].distance_m, rows[0].method, rows[0].plus_minus_m) == (25, "tape", 0.5)
    assert rows[1].plus_minus_m is None


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("1,zero", "is not a number"),
        ("1,-5", "it must be from 0.1"),
        (",5", "stop is empty"),
        ("1", "1 fields, the header has 2"),
        ("1,", "neither a distance nor coordinates"),
    ],
)
def test_a_bad_stop_is_kept_with_its_reason(line, words):
    rows, bad = read_stops(f"stop,distance_m\n9,100\n{line}\n".encode())
    assert [row.stop for row in rows] == ["9"]
    assert words in bad[0].reason
    assert bad[0].number == 3


def test_a_stop_named_twice_is_taken_once():
    rows, bad = read_stops(b"stop,distance_m\n1,25\n1,30\n")
    assert rows[0].distance_m == 25
    assert "twice" in bad[0].reason


@pytest.mark.parametrize("data", [b"", b"rig,stop,seq\nA,1,1\n", b"PK\x03\x04"])
def test_what_is_no_stops_file_is_refused(data):
    with pytest.raises(UnreadableFileError):
        read_stops(data)


def test_stops_by_coordinates_are_measured_from_the_fixed_end():
    rows, _ = read_stops(b"stop,lat,lon\nfixed,47.5,-21\n1,47.501,-21\n")
    assert stop_distances(rows) == pytest.approx({"1": 111.18}, abs=0.01)  # 1/1000 degree north


@pytest.mark.parametrize(
    ("typed", "unit", "value"),
    [
        ("1.3 km", "m", 1300),
        ("300 ft", "m", 91.44),  # international foot, 0.3048 m exact
        ("740", "m", 740),
        ("868.1 MHz", "Hz", 868.1e6),
        ("2 min", "s", 120),
        ("\N{MINUS SIGN}3 m", "m", -3),
    ],
)
def test_quantities_are_read_with_their_unit(typed, unit, value):
    assert read_quantity(typed, unit) == pytest.approx(value)


def test_a_bare_number_takes_the_unit_of_the_field():
    assert read_quantity("868.1", "Hz", bare_unit="MHz") == pytest.approx(868.1e6)


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("1,3 km", "Write 1.3 km."),
        ("far", "Write a number with its unit"),
        ("5 kg", "not a quantity in metres"),
        ("nan", "not a"),
        ("1e999 m", "not a finite number"),
        ("", "not a quantity"),
        ("__import__('os')", "not a quantity"),
    ],
)
def test_what_cannot_be_read_says_what_to_write(typed, words):
    with pytest.raises(ValueError, match="“") as caught:
        read_quantity(typed, "m")
    assert words in str(caught.value)


@pytest.mark.parametrize(
    ("typed", "dbm"), [("25 mW", 13.979), ("14 dBm", 14), ("14", 14), ("1 W", 30), ("-3dBm", -3)]
)
def test_power_is_typed_in_watts_or_dbm(typed, dbm):
    assert read_power_dbm(typed) == pytest.approx(dbm, abs=1e-3)


def test_no_power_at_all_is_refused():
    with pytest.raises(ValueError, match="above 0"):
        read_power_dbm("0 mW")


@given(st.text(max_size=20))
def test_no_text_whatever_raises_anything_but_our_sentence(typed):
    said = "“"
    try:
        read_quantity(typed, "m")
    except ValueError as wrong:
        said = str(wrong)
    assert said.startswith("“")


@pytest.mark.parametrize(
    "text",
    ["9**9**9 m", "2*3 km", "1/0 m", "(1) m", "1 m + 1 m", "m 5", "5 m m", "9" * 4000 + " m"],
)
def test_a_quantity_is_a_number_and_a_unit_and_no_arithmetic(text):
    with pytest.raises(ValueError, match="not a quantity in metres") as refused:
        read_quantity(text, "m")
    assert len(str(refused.value)) < 200


def test_stops_are_measured_from_the_fixed_end_of_the_study_file():
    rows, _ = read_stops(b"stop,lat,lon\n1,47.001,-22.0\n")
    assert stop_distances(rows) == {}
    study = StudyFile.model_validate({"fixed_end": {"lat": 47.0, "lon": -22.0}})
    assert stop_distances(rows, study) == pytest.approx({"1": 111.18}, abs=0.01)
