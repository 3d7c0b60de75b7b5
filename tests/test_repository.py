"""The tree keeps its own promises: vendored files match their table, the demo is the marsh."""

import json
import re
import subprocess
import sys
from pathlib import Path

import pytest
from django.core.management import call_command

from inchmark.demo.marsh import STOPS
from inchmark.demo.services import load_demo, marsh_log, marsh_stops
from inchmark.shelf.figures.conducted import result_of
from inchmark.shelf.figures.sweeps import trim_logs
from inchmark.studies.models import Study
from tests import make

ROOT = Path(__file__).resolve().parents[1]


def test_vendored_files_match_the_manifest_and_the_table():
    done = subprocess.run(
        [sys.executable, "requirements/vendor.py", "--verify"],
        cwd=ROOT,
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0, done.stdout
    table = (ROOT / "THIRD_PARTY.md").read_text()
    for package in json.loads((ROOT / "requirements" / "vendor.json").read_text()):
        for name, digest in package["sha256"].items():
            assert f"| {name} | `{digest}` |" in table
        assert "LICENSE" in package["sha256"]


def test_no_page_fetches_anything_from_elsewhere():
    for path in (ROOT / "src").glob("**/*"):
        if path.suffix in {".html", ".css", ".js"} and "vendor" not in path.parts:
            text = path.read_text().replace("http://www.w3.org/2000/svg", "")
            assert "http://" not in text, path
            assert "https://" not in text, path


def test_no_template_holds_inline_script_or_style():
    for path in (ROOT / "src").glob("*/templates/**/*.html"):
        text = path.read_text()
        for banned in (" style=", "<style", " onclick=", "hx-on", "js:"):
            assert banned not in text, f"{path}: {banned}"


@pytest.fixture
def marsh(db):
    """The demo study, loaded."""
    return load_demo(make.user("demo"))


def test_the_demo_is_three_rigs_eight_stops_two_walks_one_damaged_on_purpose(marsh):
    assert [rig.letter for rig in marsh.rigs.all()] == ["A", "B", "C"]
    assert marsh.stops.count() == 8
    files = [walk.files.get() for walk in marsh.walks.order_by("number")]
    assert [(one.state, one.bad_count) for one in files] == [("read", 4), ("read", 0)]
    codes = {note.code for note in make.reading(marsh).notes}
    assert {"counter_reset", "survivors_strong", "one_change", "distance_doubtful"} <= codes


def test_the_demo_has_been_on_the_bench(marsh):
    (log,) = trim_logs(marsh.sweeps.all())
    assert log.advice is not None
    half = result_of(marsh.conducted_checks.get()).half_lost
    assert half.low < -122.6 < half.high  # what the simulator knows of A


def test_the_demo_finds_what_the_simulator_knows(marsh):
    """B was given 4.2 dB more than A, C 7.5 dB more threshold than B."""
    rows = {row.rig: row for row in make.reading(marsh).main_differences}
    assert rows["B"].signal_db.low < 4.2 < rows["B"].signal_db.high
    assert rows["C"].margin_db.low < 11.7 < rows["C"].margin_db.high


def test_the_second_walk_shows_links_receivers_a_relay_and_an_order_that_turns(marsh):
    """Back 3 dB stronger, the barn 5 dB weaker; laid flat A loses 2 dB and B 11."""
    reading = make.reading(marsh)
    links = {(one.rig, one.direction, one.receiver) for one in reading.links}
    assert len(links) == 7
    levels = {(o.rig, o.direction, o.receiver): o.level_dbm.estimate for o in reading.links}
    back = levels["A", "to_carried", ""] - levels["A", "to_fixed", ""]
    assert back == pytest.approx(3, abs=1.5)
    (barn,) = reading.receivers
    assert barn.level_db.low < -5 < barn.level_db.high
    assert barn.paired is None  # 160 m apart: other places
    costs = {one.rig: one.level_db for one in reading.penalties}
    for rig, cost in (("A", 2), ("B", 11)):
        assert costs[rig].low < cost < costs[rig].high
    codes = {note.code for note in reading.notes}
    assert {"order_turns", "relayed", "links_differ"} <= codes
    assert [flag.what for flag in reading.flags if flag.what == "relayed"] == ["relayed"]
    assert {one.rig for one in reading.exchanges} == {"A", "B"}


def test_the_demo_is_the_same_every_time_and_loaded_once(marsh):
    losses = {label: 60 + metres / 15 for label, _, metres, *_ in STOPS}
    assert marsh_log(losses) == marsh_log(losses)
    again = load_demo(make.owner(marsh))
    assert again == marsh
    assert Study.objects.count() == 1


def test_a_demo_interrupted_half_way_leaves_nothing_and_is_loaded_the_next_time(db, monkeypatch):
    user = make.user("demo")

    def fall(*_args, **_options):
        raise KeyboardInterrupt

    with monkeypatch.context() as broken:
        broken.setattr("inchmark.demo.services.start_walk", fall)
        with pytest.raises(KeyboardInterrupt):
            load_demo(user)
    assert not Study.objects.exists()
    assert load_demo(user).readings.exists()


def test_demo_places_lie_in_open_ocean():
    for stop in marsh_stops():
        assert 47.4 < stop.lat < 47.6
        assert -21.1 < stop.lon < -20.9


def test_prepare_prints_a_link_and_can_leave_the_demo_out(db, capsys):
    call_command("prepare", "--no-demo", "--base", "http://127.0.0.1:8000")
    assert "http://127.0.0.1:8000/sign-in/" in capsys.readouterr().out
    assert Study.objects.count() == 0


def test_a_table_row_of_more_than_eight_lines_is_an_include():
    found = [
        f"{path.relative_to(ROOT)}: {body.strip()[:60]}"
        for path in (ROOT / "src").rglob("*.html")
        for body in re.findall(r"<tbody[^>]*>(.*?)</tbody>", path.read_text(), re.DOTALL)
        for loop in re.findall(r"{% for .*?{% endfor %}", body, re.DOTALL)
        if loop.count("\n") > 8
    ]
    assert found == []


def test_no_template_line_is_too_long_to_read():
    found = [
        f"{path.relative_to(ROOT)}:{number}"
        for path in (ROOT / "src").rglob("*.html")
        for number, line in enumerate(path.read_text().splitlines(), start=1)
        if len(line) > 140
    ]
    assert found == []
