"""Frame logs as they come: any order of columns, and everything that goes wrong with files."""

import csv
import gzip
import io
import json
import zipfile

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.lines import MAX_LINE_BYTES, numbered_lines
from inchmark.formats.frame_log.reader import read_frame_log
from inchmark.formats.frame_log.writer import csv_lines, unguarded

HEADER = "rig,stop,seq,rssi_dbm\n"


def read(text, **options):
    data = text.encode() if isinstance(text, str) else text
    pieces = list(read_frame_log([data], **options))
    blocks = [block for piece in pieces for block in piece.blocks]
    return blocks, [bad for piece in pieces for bad in piece.bad]


def count(blocks):
    return sum(len(block) for block in blocks)


def only_reason(text):
    _, bad = read(text)
    assert len(bad) == 1, bad
    return bad[0].reason


def test_columns_are_found_by_name_in_any_order():
    blocks, bad = read("noise_dbm,seq,stop,rig,Received,unknown\n-117,5,3,A,0,x\n")
    (block,) = blocks
    assert bad == []
    assert (block.text["rig"][0], block.text["stop"][0], block.seq[0]) == ("A", "3", 5)
    assert not block.heard[0]
    assert block.number["noise_dbm"][0] == -117


def test_json_lines_say_the_same_as_csv():
    rows = [
        {"rig": "A", "stop": 3, "seq": 5, "rssi_dbm": -90.5, "time": "2026-11-14T09:00:00Z"},
        {"stop": "3", "seq": 6, "rig": "A", "received": False, "rssi_dbm": None},
    ]
    (from_json,), _ = read("\n".join(map(json.dumps, rows)))
    (from_csv,), _ = read(
        "rig,stop,seq,heard,rssi_dbm,time\nA,3,5,1,-90.5,2026-11-14T09:00:00Z\nA,3,6,0,,\n"
    )
    for one in (from_json, from_csv):
        assert list(one.seq) == [5, 6]
        assert list(one.heard) == [True, False]
        assert one.number["rssi_dbm"][0] == -90.5
        assert np.isnan(one.number["rssi_dbm"][1])
        assert one.time_s[0] == 1_794_646_800


@pytest.mark.parametrize("ending", ["\n", "\r\n", "\r"])
@pytest.mark.parametrize("mark", [b"", b"\xef\xbb\xbf"])
def test_every_line_ending_and_a_byte_order_mark_are_read(ending, mark):
    text = HEADER + "A,1,0,-90\nA,1,1,-91\n"
    blocks, bad = read(mark + text.replace("\n", ending).encode())
    assert (count(blocks), bad) == (2, [])


def test_a_carriage_return_on_a_block_border_ends_one_line():
    data = (HEADER + "A,1,0,-90\nA,1,1,-91\n").replace("\n", "\r\n").encode()
    for cut in range(1, len(data)):
        pieces = list(read_frame_log([data[:cut], data[cut:]]))
        assert sum(len(b) for p in pieces for b in p.blocks) == 2
        assert pieces[-1].last_line == 3


def test_semicolons_tabs_quotes_and_spaces_are_read():
    for text in (
        "rig;stop;seq\nA;1;0\n",
        "rig\tstop\tseq\nA\t1\t0\n",
        'rig,stop,seq\n"A","1","0"\n',
        "rig, stop, seq\nA , 1, 0\n",
    ):
        (block,), bad = read(text)
        assert (block.text["rig"][0], block.text["stop"][0], bad) == ("A", "1", [])


def test_good_lines_are_taken_and_bad_ones_kept_with_their_number():
    blocks, bad = read(HEADER + "A,1,0,-90\nA,1,oops,-90\nA,1,2,-90\n~~ restart ~~\n")
    assert count(blocks) == 2
    assert [(one.number, one.text) for one in bad] == [
        (3, "A,1,oops,-90"),
        (5, "~~ restart ~~"),
    ]


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("A,1,0,nan", "Leave the field empty where nothing was measured"),
        ("A,1,0,inf", "must be from -200 to 60 dBm"),
        ("A,1,0,-900", "rssi_dbm is -900; it must be from -200 to 60 dBm"),
        ("A,1,0,\N{MINUS SIGN}90", "a plain hyphen-minus"),
        ("A,1,0,-90,5", "A decimal comma splits a number in two"),
        ("A,1,0", "may have been cut off"),
        ("A,1,-1,-90", "seq is -1"),
        ("A,1,1.5,-90", "must be a whole number"),
        ("A,1,,-90", "seq is empty"),
        (",1,0,-90", "rig is empty"),
        ("A,1,4294967296,-90", "seq is 4294967296"),
        ("A\x07,1,0,-90", "printable"),
        ("A" * 70 + ",1,0,-90", "at most 60"),
        ('"A,1,0,-90', "A quotation mark is opened"),
        ("A,1,0,\x00", "zero bytes"),
    ],
)
def test_each_kind_of_bad_value_gets_its_sentence(line, words):
    assert words in only_reason(HEADER + "A,1,7,-90\n" + line + "\n")


def test_a_decimal_comma_is_named_with_what_to_write():
    assert only_reason("rig;stop;seq;rssi_dbm\nA;1;0;-72,5\n").endswith("Write -72.5.")


@pytest.mark.parametrize(
    ("column", "token", "words"),
    [
        ("time", "yesterday", "ISO 8601"),
        ("time", "1066-10-14T09:00:00", "Check the logger's clock"),
        ("heard", "maybe", "must be 1 or 0"),
        ("lat", "95", "-90 to 90 degrees"),
        ("hops", "300", "0 to 255"),
    ],
)
def test_optional_columns_are_checked_too(column, token, words):
    assert words in only_reason(f"rig,stop,seq,{column}\nA,1,0,{token}\n")


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ('{"rig": "A", "stop": 1', "may have been cut off"),
        ("[1, 2]", "not an object"),
        ('{"rig": "A", "seq": 1}', "has no stop"),
        ('{"rig": "A", "stop": 1, "seq": 1, "rssi_dbm": NaN}', "Leave the field empty"),
        ('{"rig": "A", "stop": 1, "seq": 1, "rssi_dbm": [1]}', "each column holds one value"),
        ('{"rig": "A", "stop": 1, "seq": ' + "9" * 5000 + "}", "not JSON"),
        ('{"rig": "\\u0000", "stop": 1, "seq": 1}', "printable"),
        ('{"rig": "A", "stop": 1, "seq": "\\ud800"}', "which is not a number"),
    ],
)
def test_bad_json_lines_get_their_sentence(line, words):
    assert words in only_reason('{"rig": "A", "stop": 1, "seq": 0}\n' + line + "\n")


def test_bytes_that_are_not_utf8_spoil_their_line_only():
    blocks, bad = read(HEADER.encode() + b"A,1,0,-90\nA,caf\xe9,1,-90\n")
    assert count(blocks) == 1
    assert "Byte 6 is not UTF-8" in bad[0].reason


def test_what_is_kept_of_a_bad_line_can_be_stored_and_shown():
    _, bad = read('{"rig": "A", "stop": 1, "seq": 0}\n{"rig": "\\ud800\\u0000"}\nx\x00y\n')
    for one in bad:
        assert "\x00" not in one.text + one.reason
        (one.text + one.reason).encode("utf-8")


def test_a_ten_megabyte_line_is_kept_short_and_the_rest_read():
    data = HEADER.encode() + b"A,1,0,-90\n" + b"x" * 10_000_000 + b"\nA,1,1,-91\n"
    blocks = [data[i : i + 65_536] for i in range(0, len(data), 65_536)]
    pieces = list(read_frame_log(blocks))
    (bad,) = pieces[0].bad
    assert sum(len(b) for b in pieces[0].blocks) == 2
    assert bad.reason.startswith("The line is 10.0 MB long")
    assert len(bad.text) <= 2000
    assert bad.number == 3


def _zip():
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w") as archive:
        archive.writestr("log.csv", HEADER)
    return held.getvalue()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "The file is empty"),
        (b"\n\n  \n", "The file is empty"),
        (_zip(), "a zip archive or a workbook, whatever its name says"),
        (gzip.compress(b"rig", mtime=0), "compressed with gzip"),
        ("rig,stop,seq\n".encode("utf-16"), "UTF-16 text. Save it again as UTF-8"),
        (b"rig,stop\x00,seq", "not text"),
        (b"%PDF-1.7", "a PDF"),
        (b"time,level\n1,2\n", "no column rig and no column stop and no column seq"),
        (b"rig,stop,seq,seq\nA,1,1,1\n", "names seq twice"),
        (b"\xff\xffrig,stop,seq\n", "Line 1 should be the header"),
    ],
)
def test_a_file_that_cannot_be_read_at_all_says_why(data, words):
    with pytest.raises(UnreadableFileError) as caught:
        read(data)
    assert words in str(caught.value)


def test_a_header_without_frames_gives_none():
    assert read(HEADER) == ([], [])


def test_corrections_stand_in_for_lines_and_an_empty_one_leaves_it_out():
    text = HEADER + "A,1,0,-90\nA,1,x,-90\nrubbish\n"
    blocks, bad = read(text, corrections={3: "A,1,1,-90", 4: ""})
    assert (count(blocks), bad) == (2, [])


def test_one_bad_line_in_a_large_block_costs_only_itself():
    lines = [f"A,1,{i},-90" for i in range(30_000)]
    lines[12_345] = "A,1,12345,nan"
    blocks, bad = read(HEADER + "\n".join(lines))
    assert count(blocks) == 29_999
    assert [one.number for one in bad] == [12_347]
    assert sorted(np.concatenate([b.line for b in blocks]))[:2] == [2, 3]


@given(st.binary(max_size=400))
def test_no_bytes_whatever_raise_anything_but_our_sentence(data):
    try:
        _, bad = read(HEADER.encode() + data)
    except UnreadableFileError:
        return
    assert all(one.reason for one in bad)


@given(st.lists(st.binary(max_size=50), max_size=10))
def test_lines_do_not_depend_on_how_the_bytes_were_cut(parts):
    whole = b"".join(parts)
    assert list(numbered_lines(parts)) == list(numbered_lines([whole]))


def test_the_line_limit_holds_at_its_border():
    for extra in (0, 1):
        (line,) = numbered_lines([b"x" * (MAX_LINE_BYTES + extra)])
        assert hasattr(line, "reason") is bool(extra)


@pytest.mark.parametrize("text", ["=1+1", "+1", "-1", "@x", "'=x", "plain", "'quoted'"])
def test_what_a_spreadsheet_would_run_is_written_as_text_and_read_back(text):
    (_, line) = csv_lines([{"name": text}], ["name"])
    written = next(csv.reader([line]))[0]
    assert not written.startswith(("=", "+", "-", "@"))
    assert unguarded(written) == text


def test_numbers_keep_their_sign():
    (_, line) = csv_lines([{"rssi_dbm": -90.5}], ["rssi_dbm"])
    assert line == "-90.5\n"
