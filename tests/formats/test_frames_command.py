"""`inchmark frames`: what was sent and heard comes out of every dialect, and nothing else."""

import csv
import io

import pytest

from inchmark.cli import main
from tests.dialects import BEGAN, DIALECTS, Sent, gateways, walk


def frames_of(capsys, *arguments):
    status = main(["frames", *map(str, arguments), "--csv"])
    out = capsys.readouterr()
    assert status == 0, out.err
    return list(csv.DictReader(io.StringIO(out.out)))


def one_visit(frames: list[Sent]) -> list[Sent]:
    return [one for one in frames if one.rig == "A" and one.stop == "2"]


def expected(frames: list[Sent]) -> dict:
    """What was heard, and lost between frames heard of the same visit."""
    found: dict = {}
    for key in {(one.rig, one.stop) for one in frames}:
        own = [one for one in frames if (one.rig, one.stop) == key]
        seqs = [one.seq for one in own if one.heard]
        found |= {(*key, one.seq): one.heard for one in own if seqs[0] <= one.seq <= seqs[-1]}
    return found


@pytest.mark.parametrize("name", DIALECTS)
def test_every_dialect_gives_the_frames_that_were_sent_and_heard(name, tmp_path, capsys):
    dialect = DIALECTS[name]
    frames = walk(first=dialect.first)
    options = [*dialect.options]
    if not (dialect.rig_known and dialect.stop_known):
        frames = [o for o in frames if o.stop == "2" and (dialect.rig_known or o.rig == "A")]
        options += [] if dialect.rig_known else ["--set", "rig=A"]
        options += ["--set", "stop=2"]
    text = dialect.write(frames)
    log = tmp_path / "board.log"
    log.write_bytes(text if isinstance(text, bytes) else text.encode())
    rows = frames_of(capsys, log, *options)
    told = {(row["rig"], row["stop"], int(row["seq"])): row["heard"] == "1" for row in rows}
    assert told == expected(frames)
    levels = {(o.rig, o.stop, o.seq): o for o in frames}
    for row in rows:
        if row["heard"] == "1":
            one = levels[row["rig"], row["stop"], int(row["seq"])]
            assert float(row["rssi_dbm"]) == pytest.approx(one.rssi, abs=dialect.rssi_within)
            assert not dialect.snr or float(row["snr_db"]) == one.snr


def test_two_receivers_of_one_transmission_are_two_rows(tmp_path, capsys):
    frames = walk()
    log = tmp_path / "gateways.log"
    log.write_text(gateways(frames))
    rows = frames_of(capsys, log)
    for receiver, less in (("barn", 0), ("pump", 9)):
        own = [row for row in rows if row["receiver"] == receiver and row["heard"] == "1"]
        heard = [o for o in frames if o.heard and (receiver == "barn" or o.seq % 3)]
        assert sorted((r["rig"], int(r["seq"])) for r in own) == sorted(
            (o.rig, o.seq) for o in heard
        )
        assert {int(float(r["rssi_dbm"])) for r in own} <= {o.rssi - less for o in heard}
    assert BEGAN.year == 2026
