"""Files of the bench and the shelf: current traces, ladders in a frame log, shelves."""

import json
from pathlib import Path

import pytest

from inchmark.formats.current_trace import read_current
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.ladder_log import ladder_steps
from inchmark.formats.shelf_file import ShelfFile, read_shelf, shelf_schema, shelf_text

ROOT = Path(__file__).resolve().parents[2]
LOG = "rig,stop,seq,heard,condition\n"


@pytest.mark.parametrize(
    "text",
    [
        "time_s,current_mA\n0,1.5\n0.001,2.5\n",
        "# exported\nTime [ms];Current (uA)\n0;1500\n1;2500\n",
        "t_us\tignored\ti_A\n0\tx\t0.0015\n1000\tx\t0.0025\n",
        "Time (s)\tMain Avg Current (mA)\n0\t1,5\n0,001\t2,5\n",
        '"Time (ms)","I, main (mA)"\n"0","1.5"\n"1","2.5"\n',
        "time,current\ns,mA\n0,1.5\n0.001,2.5\n",
        "Probe 3, firmware 1.2\nRange: auto\nseconds,milliamps\n0,1.5\n0.001,2.5\n",
        "time,current mA\n23:59:59.9995,1.5\n00:00:00.0005,2.5\n",
        "Time;Current (mA)\n2026-11-12T12:00:00.000Z;1,5\n2026-11-12T12:00:00.001Z;2,5\n",
    ],
)
def test_time_and_current_are_read_in_any_unit(text):
    found = read_current(text.encode())
    assert list(found.time_s) == pytest.approx([0, 0.001])
    assert list(found.current_a) == pytest.approx([0.0015, 0.0025])


def test_a_trace_saved_as_wide_text_is_read():
    found = read_current("time (ms);current (µA)\n0;1500\n1;2500\n".encode("utf-16"))
    assert list(found.current_a) == pytest.approx([0.0015, 0.0025])


def test_the_column_that_begins_with_current_goes_before_one_that_holds_it():
    found = read_current(b"time_s,peak current mA,current mA\n0,9,1.5\n1,9,2.5\n")
    assert list(found.current_a) == pytest.approx([0.0015, 0.0025])


def test_a_voltage_over_a_shunt_is_a_current():
    found = read_current(b"time_s,voltage_mV\n0,15\n1,25\n", shunt_ohm=10.0)
    assert list(found.current_a) == pytest.approx([0.0015, 0.0025])


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "The file is empty"),
        (b"\n \n# nothing\n", "The file is empty"),
        (b"time_s,current_mA\n", "no sample under it"),
        (b"\x00\x01\x02", "not text"),
        (b"0,1\n1,2\n", "names no time"),
        (b"time_s,speed\n0,1\n", "names no current"),
        (b"time_s,voltage_V\n0,1\n", "shunt"),
        (b"time_s,current_mA\n0,1\n1,abc\n", "Line 3, “1,abc”, is not two numbers"),
        (b"time_s,current_mA\n0,1\n1\n", "Line 3"),
        (b"time_s,current_mA\n0,nan\n", "Line 2, “0,nan”, holds no finite number"),
        (b"time_s,current_mA\n0,inf\n", "no finite number"),
    ],
)
def test_a_file_that_is_no_trace_says_where_and_why(data, words):
    with pytest.raises(UnreadableFileError, match=words):
        read_current(data)


def log(*rows):
    return [(LOG + "".join(f"{row}\n" for row in rows)).encode()]


def test_attenuations_become_steps():
    rows = [f"A,bench,{i},1,96" for i in range(20)]
    rows += [f"A,bench,{i},{int(i % 2)},101 dB" for i in range(20)]
    assert ladder_steps(log(*rows)) == [[96.0, 20, 20], [101.0, 20, 10]]


def test_the_frames_sent_at_a_step_count_a_silent_tail():
    rows = [f"A,bench,{i},1,104" for i in range(5)]
    assert ladder_steps(log(*rows), frames_per_step=60) == [[104.0, 60, 5]]


def test_only_the_ladders_rig_counts_where_the_log_has_several():
    rows = [f"A,bench,{i},1,96" for i in range(4)] + [f"B,bench,{i},1,90" for i in range(4)]
    assert ladder_steps(log(*rows), rigs=["B"]) == [[90.0, 4, 4]]
    with pytest.raises(UnreadableFileError, match="speaks of rig A and B, not of rig C"):
        ladder_steps(log(*rows), rigs=["C"])


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        (["A,bench,1,1,in hand"], "“in hand” is no attenuation"),
        (["A,bench,1,1,"], "is no attenuation"),
        (["A,bench,1,1,900"], "is no attenuation"),
        (["A,bench,1,1,96", "A,bench,x,1,96"], "1 lines could not be read"),
    ],
)
def test_a_log_that_is_no_ladder_says_why(rows, words):
    with pytest.raises(UnreadableFileError, match=words):
        ladder_steps(log(*rows))


def test_a_shelf_comes_back_as_it_went_out():
    starter = (ROOT / "src/inchmark/shelf/starter_shelf.json").read_bytes()
    shelf = read_shelf(starter)
    assert isinstance(shelf, ShelfFile)
    assert read_shelf(shelf_text(shelf).encode()) == shelf
    assert len(shelf.modules) == 4


def test_the_schema_in_the_docs_is_the_one_files_are_checked_by():
    kept = json.loads((ROOT / "docs/shelf.schema.json").read_text())
    assert kept == json.loads(json.dumps(shelf_schema()))


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"{", "no JSON"),
        (b"[]", "no shelf"),
        (b'{"format": "other"}', "no shelf"),
        (b'{"format": "inchmark-shelf", "version": 9}', "version 9"),
        (b'{"format": "inchmark-shelf", "version": 1, "feeds": [{"nme": "x"}]}', "feeds.0"),
        (
            b'{"format": "inchmark-shelf", "version": 1, "batteries": [{"name": "x", '
            b'"capacity_ah": NaN}]}',
            "batteries.0.capacity_ah",
        ),
        (b"[" * 100_000, "no JSON"),
    ],
)
def test_a_file_that_is_no_shelf_says_where(data, words):
    with pytest.raises(UnreadableFileError, match=words):
        read_shelf(data)
