"""`inchmark frames` with tracks: bins of a drive, stops measured, and what has to be said for it."""

import csv

import pytest

from inchmark.cli import main

DRIVE = ("--dwell", "4", "--speed", "3", "--route", "30,700", "--interval", "1")
DAY = ("--date", "2026-11-14", "--zone", "+00:00")


@pytest.fixture
def drive(tmp_path, capsys):
    common = ["simulate", "--boards", "1", "--dialect", "keys", "--with", "gps", "--pace", "0"]
    where = ["--on", f"file:{tmp_path}", "--began", "2026-11-14T09:00:00Z"]
    assert main([*common, *DRIVE, *where, "--truth", str(tmp_path / "truth")]) == 0
    capsys.readouterr()
    return tmp_path


def frames(folder, *more):
    logs = [str(folder / "A.log"), str(folder / "gps.log")]
    return main(["frames", *logs, *DAY, *more])


def test_a_drive_is_cut_into_bins_by_the_positions_in_its_logs(drive, capsys):
    out = drive / "stops.csv"
    assert (
        frames(drive, "--csv", "--bins", "50", "--fixed-end", "54.2,7.9", "--stops-out", str(out))
        == 0
    )
    rows = list(csv.DictReader(capsys.readouterr().out.splitlines()))
    stops = list(csv.DictReader(out.read_text().splitlines()))
    assert [s["stop"] for s in stops] == [f"bin {i}" for i in range(1, len(stops) + 1)]
    assert {r["stop"] for r in rows} == {s["stop"] for s in stops}
    assert float(stops[0]["distance_m"]) == pytest.approx(30 + 3 * 22, abs=8)
    # 50 frames at 3 m/s: a spread of 3 * 50 / sqrt(12) m, twice that as plus or minus
    assert float(stops[0]["plus_minus_m"]) == pytest.approx(2 * 150 / 12**0.5, rel=0.15)
    assert main(["read", "--frames", str(drive / "A.log"), "--stops", str(out)]) == 2


def test_stops_of_a_timeline_are_measured(drive, capsys):
    out, timeline = drive / "stops.csv", str(drive / "truth" / "timeline.csv")
    more = ["--timeline", timeline, "--fixed-end", "54.2,7.9", "--stops-out", str(out)]
    assert frames(drive, *more) == 0
    assert "points of the track" in capsys.readouterr().out
    assert [row["stop"] for row in csv.DictReader(out.read_text().splitlines())] == ["1", "2"]


@pytest.mark.parametrize(
    ("more", "words"),
    [
        (("--bins", "50"), "Distances need the other end"),
        (("--bins", "2", "--fixed-end", "54.2,7.9"), "needs 5 frames"),
        (("--bins", "many", "--fixed-end", "54.2,7.9"), "write 60 for frames, or 50m"),
        (("--bins", "50", "--fixed-end", "north"), "write LAT,LON"),
    ],
)
def test_what_was_not_said_gets_a_sentence(drive, more, words, capsys):
    assert frames(drive, *more) == 2
    assert words in capsys.readouterr().err


def test_bins_and_a_timeline_are_not_both(drive, capsys):
    timeline = str(drive / "truth" / "timeline.csv")
    assert frames(drive, "--bins", "50", "--fixed-end", "54.2,7.9", "--timeline", timeline) == 2
    assert "either --bins or --timeline" in capsys.readouterr().err
    log = [str(drive / "A.log"), *DAY, "--bins", "50", "--fixed-end", "54.2,7.9"]
    assert main(["frames", *log]) == 2
    assert "hold no positions with a time" in capsys.readouterr().err
