"""Several logs, clocks, a timeline: who stood where, what was sent, and what has to be asked."""

import csv
import io

import pytest

from inchmark.cli import main


def run(capsys, *arguments):
    status = main(["frames", *map(str, arguments)])
    out = capsys.readouterr()
    return status, out.out, out.err


def rows_of(capsys, *arguments):
    status, out, err = run(capsys, *arguments, "--csv")
    assert status == 0, err
    return list(csv.DictReader(io.StringIO(out)))


def counts(rows, *names):
    """(sent, heard) by the named columns."""
    found: dict = {}
    for row in rows:
        key = tuple(row.get(name, "") for name in names)
        sent, heard = found.get(key, (0, 0))
        found[key] = (sent + 1, heard + (row["heard"] == "1"))
    return found


@pytest.fixture
def folder(tmp_path):
    class Folder:
        def write(self, name, lines):
            path = tmp_path / name
            path.write_text("\n".join(lines) + "\n")
            return path

    return Folder()


def beats(first, count, *, start="14:00:00", every=10, lost=(), text="{t} rx seq={n} rssi={r}"):
    hours, minutes, seconds = map(int, start.split(":"))
    began = hours * 3600 + minutes * 60 + seconds
    lines = []
    for i in range(count):
        at = (began + i * every) % 86_400
        if first + i not in lost:
            stamp = f"{at // 3600:02d}:{at // 60 % 60:02d}:{at % 60:02d}"
            lines.append(text.format(t=stamp, n=first + i, r=-80 - i % 4))
    return lines


TIMELINE = ["from,to,stop,rig,sent", "14:00,14:05,1,A,", "14:05,14:10,2,A,", "14:10,14:15,3,A,25"]


def test_a_timeline_says_where_frames_stood_and_where_nothing_was_heard(folder, capsys):
    log = folder.write("r.log", beats(0, 60, lost={3, 40}))
    timeline = folder.write("t.csv", TIMELINE)
    rows = rows_of(capsys, log, "--set", "rig=A", "--timeline", timeline, "--date", "2026-11-15")
    assert counts(rows, "stop") == {("1",): (30, 29), ("2",): (30, 29), ("3",): (25, 0)}


def test_a_wrong_rig_for_some_minutes_is_mended_by_the_timeline(folder, capsys):
    log = folder.write("r.log", beats(0, 60))
    before = folder.write("b.csv", ["from,to,stop,rig", "14:00,14:10,1,A"])
    after = folder.write(
        "a.csv", ["from,to,stop,rig", "14:00,14:03,1,A", "14:03,14:06,1,B", "14:06,14:10,1,A"]
    )
    assert counts(rows_of(capsys, log, "--timeline", before), "rig") == {("A",): (60, 60)}
    rows = rows_of(capsys, log, "--timeline", after)
    # what B sent in between is no loss of A, though the counter went on
    assert counts(rows, "rig") == {("A",): (42, 42), ("B",): (18, 18)}


def test_times_go_over_midnight_and_into_utc(folder, capsys):
    log = folder.write("r.log", beats(0, 12, start="23:59:00"))
    rows = rows_of(
        capsys, log, "--set", "rig=A", "--set", "stop=1", "--date", "2026-11-15", "--zone", "+01:00"
    )
    assert rows[0]["time"] == "2026-11-15T22:59:00Z"
    assert rows[-1]["time"] == "2026-11-15T23:00:50Z"


def test_without_a_date_times_of_day_still_place_frames_but_are_not_printed(folder, capsys):
    log = folder.write("r.log", beats(0, 60))
    timeline = folder.write("t.csv", TIMELINE[:3])
    rows = rows_of(capsys, log, "--set", "rig=A", "--timeline", timeline)
    assert counts(rows, "stop") == {("1",): (30, 30), ("2",): (30, 30)}
    assert "time" not in rows[0]


def test_a_senders_log_tells_what_was_lost_before_the_first_and_after_the_last(folder, capsys):
    sender = folder.write("node.log", beats(0, 60, text="{t} TX seq={n}"))
    heard = beats(0, 60, lost={0, 1, 2, 30, 58, 59}, start="14:01:33")
    receiver = folder.write("gateway.log", heard)
    timeline = folder.write("t.csv", TIMELINE[:3])
    rows = rows_of(
        capsys, sender, receiver, "--set", "rig=A", "--clock", "gateway.log=auto",
        "--timeline", timeline, "--date", "2026-11-15",
    )  # fmt: skip
    assert counts(rows, "stop") == {("1",): (30, 27), ("2",): (30, 27)}
    assert [row["seq"] for row in rows if row["heard"] == "0"] == ["0", "1", "2", "30", "58", "59"]


def test_a_clock_that_is_off_is_set_by_seconds_too(folder, capsys):
    log = folder.write("r.log", beats(0, 6, start="14:01:33"))
    options = ("--set", "rig=A", "--set", "stop=1", "--date", "2026-11-15")
    rows = rows_of(capsys, log, *options, "--clock", "r.log=-93")
    assert rows[0]["time"] == "2026-11-15T14:00:00Z"


def test_each_end_logs_the_other_and_directions_are_kept_apart(folder, capsys):
    up = folder.write("gateway.log", beats(0, 20, lost={5}))
    down = folder.write("node.log", beats(0, 20, lost={5, 6, 7}))
    rows = rows_of(
        capsys, up, down, "--set", "rig=A", "--set", "stop=1",
        "--set", "gateway.log:direction=to_fixed", "--set", "node.log:direction=to_carried",
    )  # fmt: skip
    assert counts(rows, "direction") == {("to_fixed",): (20, 19), ("to_carried",): (20, 17)}


def test_frames_without_a_counter_are_numbered_by_the_beat_between_stays(folder, capsys):
    lines = beats(0, 12, every=60, lost=set(range(12)) - {4}, text="{t} beep rssi={r}")
    log = folder.write("r.log", lines * 1)
    timeline = folder.write("t.csv", ["from,to,stop,rig", "14:00,14:12,1,A"])
    options = ("--timeline", timeline, "--date", "2026-11-15")
    status, out, err = run(capsys, log, *options, "--csv")
    assert (status, out) == (3, "")
    assert "--interval" in err
    rows = rows_of(capsys, log, *options, "--interval", "60")
    assert counts(rows, "stop") == {("1",): (12, 1)}  # one heard in twelve minutes is not 1 of 1


def test_a_silent_tail_is_lost_where_it_is_known_how_many_were_sent(folder, capsys):
    log = folder.write("r.log", beats(0, 12, lost={10, 11}))
    options = ("--set", "rig=A", "--set", "stop=1")
    assert counts(rows_of(capsys, log, *options), "stop") == {("1",): (10, 10)}
    rows = rows_of(capsys, log, *options, "--sent-per-visit", "12")
    assert counts(rows, "stop") == {("1",): (12, 10)}


def test_a_counter_of_eight_bits_goes_on_after_its_top(folder, capsys):
    lines = [line.replace(f"seq={n}", f"seq={n % 256}") for n, line in
             zip((n for n in range(240, 280) if n != 257), beats(240, 40, lost={257}), strict=True)]  # fmt: skip
    rows = rows_of(capsys, folder.write("r.log", lines), "--set", "rig=A", "--set", "stop=1")
    assert counts(rows, "stop") == {("1",): (40, 39)}
    assert [row["seq"] for row in rows if row["heard"] == "0"] == ["1"]


@pytest.mark.parametrize(
    ("lines", "options", "words"),
    [
        (beats(0, 9), ("--set", "stop=1"), "Which rig is it?"),
        (beats(0, 9), ("--set", "rig=A"), "Where was it?"),
        (beats(0, 9, text="{t} rx seq={n} quality={n}%"), ("--set", "rig=A"), "No part"),
        (["{} {} {}".format("rx seq", n, "signal 45%") for n in range(9)], (), "per cent"),
        (["nothing to see", "here or there"], (), "Is this a frame log?"),
    ],
)
def test_what_cannot_be_known_is_asked_in_words(folder, capsys, lines, options, words):
    status, out, err = run(capsys, folder.write("r.log", lines), "--csv", *options)
    if words == "No part":  # a quality is no RSSI: the frames count without a level
        assert status == 3
        assert "Where was it?" in err or "per cent" in err
    else:
        assert (status, out) == (3, "")
        assert words in err


def test_a_kept_recipe_reads_the_next_log_alike(folder, capsys, tmp_path):
    log = folder.write("r.log", beats(0, 9))
    kept = tmp_path / "recipe.json"
    options = ("--set", "rig=A", "--set", "stop=1")
    first = rows_of(capsys, log, *options, "--keep", kept)
    assert rows_of(capsys, log, *options, "--recipe", kept) == first
    short = folder.write("short.log", beats(9, 1))  # too short to propose anything from
    assert len(rows_of(capsys, short, *options, "--recipe", kept)) == 1


def test_our_own_frame_log_comes_out_as_it_went_in(folder, capsys):
    lines = [
        "rig,stop,seq,heard,time,rssi_dbm,snr_db,noise_dbm,condition,direction,receiver,source,hops,lat,lon",
        "A,1,7,1,2026-11-14T09:00:00Z,-90.125,-3.25,-117.0,pocket,to_fixed,R1,n7,2,47.5123457,-21.0",
        "A,1,8,0,2026-11-14T09:00:05Z,,,-117.0,pocket,to_fixed,R1,n7,,,",
        "A,1,9,1,2026-11-14T09:00:10Z,-91.0,-3.5,-117.0,pocket,to_fixed,R1,n7,2,47.5123457,-21.0",
    ]
    log = folder.write("own.csv", lines)
    status, out, _ = run(capsys, log, "--csv")
    assert status == 0
    assert out.splitlines() == lines


def test_explain_lists_lines_that_are_no_frames_and_damaged_ones_apart(folder, capsys):
    lines = ["boot ok", *beats(0, 9), "14:02:00 rx seq=9 rs", "bye"]
    log = folder.write("r.log", lines)
    status, out, _ = run(capsys, log, "--set", "rig=A", "--set", "stop=1", "--explain")
    assert status == 0
    assert "9 frame lines, 2 lines no frame, 1 damaged" in out
    assert "no frame, line 1: “boot ok”" in out
    assert "damaged, line 11: The line has no RSSI" in out


def test_positions_come_from_sentences_between_frames_and_from_a_track(folder, capsys, tmp_path):
    lines = beats(0, 6)
    sentence = "$GPGGA,140005,4730.000,N,02100.000,W,1,08,0.9,5.4,M,46.9,M,,*"
    check = 0
    for char in sentence[1:-1]:
        check ^= ord(char)
    lines.insert(2, f"14:00:15 {sentence}{check:02X}")
    options = ("--set", "rig=A", "--set", "stop=1", "--date", "2026-11-15")
    rows = rows_of(capsys, folder.write("r.log", lines), *options)
    assert [row["lat"] for row in rows] == ["", "", "47.5", "47.5", "47.5", ""]
    track = tmp_path / "t.gpx"
    track.write_text(
        '<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>'
        '<trkpt lat="47.0" lon="-21"><time>2026-11-15T14:00:00Z</time></trkpt>'
        '<trkpt lat="47.1" lon="-21"><time>2026-11-15T14:00:50Z</time></trkpt>'
        "</trkseg></trk></gpx>"
    )
    rows = rows_of(capsys, folder.write("s.log", beats(0, 6)), *options, "--track", track)
    assert [row["lat"] for row in rows] == ["47.0", "47.02", "47.04", "47.06", "47.08", "47.1"]


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--set", "colour=red"), "fields are rig, stop"),
        (("--set", "other.log:rig=A"), "none of the files given"),
        (("--clock", "r.log=soon"), "no number of seconds"),
        (("--zone", "CET"), "must be like +01:00"),
    ],
)
def test_a_wrong_option_gets_a_sentence(folder, capsys, options, words):
    status, _, err = run(capsys, folder.write("r.log", beats(0, 9)), *options)
    assert status == 2
    assert words in err


def test_a_senders_log_behind_a_tag_and_a_clock_from_its_start_is_joined(folder, capsys):
    sent = ["I (100) app: start", *(f"I ({5000 + i * 10_000}) app: tx seq={i}" for i in range(60))]
    node = folder.write("node.log", sent)
    gateway = folder.write("gateway.log", beats(0, 60, lost={3, 4, 50}))
    timeline = folder.write("t.csv", TIMELINE[:3])
    rows = rows_of(
        capsys, node, gateway, "--set", "rig=A", "--clock", "node.log=auto",
        "--timeline", timeline, "--date", "2026-11-15",
    )  # fmt: skip
    assert counts(rows, "stop") == {("1",): (30, 28), ("2",): (30, 29)}


def test_a_clock_that_jumps_back_is_said(folder, capsys):
    log = folder.write("r.log", [*beats(0, 9), *beats(9, 9, start="13:00:00")])
    _, out, _ = run(capsys, log, "--set", "rig=A", "--set", "stop=1", "--explain")
    assert "its clock fell back 1 time" in out
