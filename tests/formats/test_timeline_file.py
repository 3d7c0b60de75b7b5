"""Timelines as CSV: however lines end, and what is no CSV."""

from datetime import UTC, date

import pytest

from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.timeline_file import read_timeline

STAYS = "from,to,stop,rig\n10:00,10:05,1,A\n10:06,10:11,2,A\n"


def read(text):
    return read_timeline(text.encode(), zone=UTC, day=date(2026, 11, 14))


@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
def test_lines_may_end_as_on_any_system(end):
    assert [stay.stop for stay in read(STAYS.replace("\n", end))] == ["1", "2"]


def test_what_csv_cannot_take_is_said():
    with pytest.raises(UnreadableFileError, match="no CSV"):
        read(STAYS + f"10:12,10:15,{'3' * 200_000},A\n")


def test_a_short_line_is_named():
    with pytest.raises(UnreadableFileError, match="line 4"):
        read(STAYS + "10:12\n")
