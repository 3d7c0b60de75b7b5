"""`inchmark` as a person runs it."""

import json
from math import inf, nan

import pytest

from inchmark.cli import main
from inchmark.cli.reference import tables
from tests.core.test_link_model import SMALL

FRAMES, STOPS = str(SMALL / "frames.csv"), str(SMALL / "stops.csv")
READ = ["read", "--frames", FRAMES, "--stops", STOPS]
KNOWN = ["--sensitivity", "A=-112", "--sensitivity", "B=-112"]


def test_read_prints_the_promised_json(capsys):
    assert main([*READ, *KNOWN, "--json"]) == 0
    data = json.loads(capsys.readouterr().out)
    before = {"site", "rigs", "differences", "visits", "notes"}
    beside = {"links", "exchange", "receivers", "penalties", "penalty_pairs", "flags"}
    assert set(data) == before | beside | {"bearings", "check", "guidance"}
    rig = data["rigs"]["A"]
    assert set(rig["range_m"]) == {"last_heard", "loss_rule", "in_hand"}
    assert set(rig["threshold_dbm"]) == {"estimate", "low", "high"}
    visit = data["visits"][0]
    assert {"rig", "stop", "distance_m", "condition", "sent", "heard", "loss", "noise_dbm"} <= set(
        visit
    )
    assert set(visit["rssi_dbm"]) == {"of_heard", "censored"}
    assert {"rig", "against", "db"} <= set(data["differences"][0])
    assert all(note["code"] and note["text"] for note in data["notes"])
    assert sum(v["sent"] for v in data["visits"]) == 400


def test_read_finds_the_known_truth_of_the_small_study(capsys):
    """Generating values: exponent 3.2, range of A 632 m, of B 251 m, A over B 12.86 dB."""
    main([*READ, *KNOWN, "--json"])
    data = json.loads(capsys.readouterr().out)
    for figure, truth in (
        (data["site"]["exponent"], 3.2),
        (data["rigs"]["A"]["range_m"]["loss_rule"], 632.1),
        (data["rigs"]["B"]["range_m"]["loss_rule"], 250.5),
        (data["differences"][0]["db"], -12.86),
    ):
        assert figure["low"] < truth < figure["high"]


def test_read_says_the_answer_in_words(capsys):
    main([*READ, *KNOWN, "--needed", "400"])
    said = capsys.readouterr().out
    assert said.startswith("A reaches farthest; B has \N{MINUS SIGN}11")
    assert "At the needed 400 m:" in said


def test_a_stricter_rule_shortens_the_range(capsys):
    reach = []
    for rule in ([], ["--loss", "0.01", "--places", "0.95"]):
        main([*READ, *KNOWN, "--json", *rule])
        data = json.loads(capsys.readouterr().out)
        reach.append(data["rigs"]["B"]["range_m"]["loss_rule"]["estimate"])
    assert reach[1] is None or reach[1] < reach[0]


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["read", "--frames", "no-such.csv", "--stops", STOPS], "No such file"),
        (["read", "--frames", STOPS, "--stops", STOPS], "no column rig"),
        (["read", "--frames", FRAMES, "--stops", FRAMES], "The header needs stop and distance_m"),
        ([*READ, "--sensitivity", "A:-112"], "must be RIG=VALUE"),
        ([*READ, "--places", "1.5"], "places=1.5"),
        (["reference", "no-such-folder"], "there is no folder"),
        (["simulate"], "say what"),
        (["bridge", "--connect", "x", "--post", "http://x", "--token-file", FRAMES], "HOST:PORT"),
    ],
)
def test_what_goes_wrong_is_one_sentence_and_exit_two(arguments, words, capsys):
    assert main(arguments) == 2
    said = capsys.readouterr().err
    assert words in said
    assert "Traceback" not in said


def test_stops_without_a_distance_are_named(tmp_path, capsys):
    stops = tmp_path / "stops.csv"
    stops.write_text("stop,distance_m\n1,50\n2,105.7\n3,223.6\n4,472.9\n")
    assert main(["read", "--frames", FRAMES, "--stops", str(stops), "--json"]) == 0
    notes = json.loads(capsys.readouterr().out)["notes"]
    assert any(n["code"] == "stop_without_distance" and n["stop"] == "5" for n in notes)


def test_bad_lines_are_counted_in_a_note(tmp_path, capsys):
    log = tmp_path / "log.csv"
    log.write_text((SMALL / "frames.csv").read_text() + "A,1,reference,zz,1,-70,,\n")
    main(["read", "--frames", str(log), "--stops", STOPS, "--json"])
    notes = json.loads(capsys.readouterr().out)["notes"]
    note = next(n for n in notes if n["code"] == "unread_lines")
    assert "line 402" in note["text"]


def test_a_log_whose_lines_are_all_bad_says_the_first_reason(tmp_path, capsys):
    log = tmp_path / "log.csv"
    log.write_text("rig,stop,seq\nA,1,zz\n")
    assert main(["read", "--frames", str(log), "--stops", STOPS]) == 2
    assert "No line could be read. Line 2" in capsys.readouterr().err


def test_a_known_count_turns_a_silent_tail_into_losses(capsys):
    main([*READ, *KNOWN, "--json", "--frames-per-visit", "60"])
    data = json.loads(capsys.readouterr().out)
    assert sum(v["sent"] for v in data["visits"]) == 600
    assert main([*READ, "--interval", "0"]) == 2
    assert "interval_s=0.0 must be greater than 0" in capsys.readouterr().err


def test_walking_out_and_back_is_read_as_two_passes(tmp_path, capsys):
    log = tmp_path / "log.csv"
    stops = ["1", "2", "3", "2", "1"]
    rows = [
        f"A,{stop},{100 * i + k},-{70 + k % 3}" for i, stop in enumerate(stops) for k in range(30)
    ]
    log.write_text("rig,stop,seq,rssi_dbm\n" + "\n".join(rows) + "\n")
    main(["read", "--frames", str(log), "--stops", STOPS, "--json"])
    sent = {v["stop"]: v["sent"] for v in json.loads(capsys.readouterr().out)["visits"]}
    assert sent == {"1": 60, "2": 60, "3": 30}


def test_reference_passes_on_the_chosen_values_and_fails_on_a_wrong_one(tmp_path, capsys):
    assert main(["reference", str(SMALL.parents[1] / "reference")]) == 0
    assert "pass" in capsys.readouterr().out
    (tmp_path / "unknown_topic.csv").write_text("case_id\n")
    header = "case_id,distance_m,frequency_mhz,expected_loss_db,tolerance_loss_db\n"
    (tmp_path / "free_space.csv").write_text(header + "x1,1000,868,92.5,0.05\n")
    assert main(["reference", str(tmp_path)]) == 1
    said = capsys.readouterr().out
    assert "1 FAILED" in said
    assert "x1: loss_db" in said
    assert "not known yet: unknown_topic" in said


def test_a_simulated_walk_can_be_read_back(tmp_path, capsys):
    assert main(["simulate", "--into", str(tmp_path), "--seed", "4"]) == 0
    files = ["--frames", str(tmp_path / "frames.csv"), "--stops", str(tmp_path / "stops.csv")]
    assert main(["read", *files, "--json"]) == 0
    data = json.loads(capsys.readouterr().out.split("\n", 1)[1])
    assert data["rigs"]["A"]["sent"] == 420
    assert len(data["visits"]) == 14


def test_a_value_that_is_no_number_fails_its_row(tmp_path, monkeypatch):
    table = tmp_path / "free_space.csv"
    table.write_text("case_id,expected_loss_db,tolerance_loss_db\nx1,92.5,0.05\n")
    monkeypatch.setitem(tables.TABLES, "free_space", lambda folder: lambda row: {"loss_db": nan})
    result = tables.check_table(table)
    assert len(result.failed) == 1
    assert result.worst == inf


P8 = ["frames.csv", "stops.csv", "study.json"]


def read_p8(tmp_path, places, *more):
    folder = SMALL.parent / "p8-receivers"
    features = [
        {
            "type": "Feature",
            "properties": {"name": name},
            "geometry": {"type": "Point", "coordinates": [lon, lat]},
        }
        for name, (lat, lon) in places.items()
    ]
    file = tmp_path / "gates.geojson"
    file.write_text(json.dumps({"type": "FeatureCollection", "features": features}))
    frames, stops, study = (str(folder / name) for name in P8)
    return ["read", "--frames", frames, "--stops", stops, "--study", study, "--places", str(file), *more]  # fmt: skip


def test_needed_places_are_read_with_how_many_a_rig_serves(tmp_path, capsys):
    places = {"gate": (47.5, -20.995), "far": (47.5, -20.9), "stop two": (47.5, -20.998979)}
    assert main(read_p8(tmp_path, places, "--json")) == 0
    found = json.loads(capsys.readouterr().out)
    for rig, rows in found["places"].items():
        gate, far, stop = rows
        assert [row["place"] for row in rows] == list(places)
        assert gate["distance_m"] == pytest.approx(376, abs=2)
        assert gate["meets_rule"]["estimate"] > far["meets_rule"]["estimate"]
        assert (far["extrapolated"], far["why"]) == (True, ["farther than any stop"])
        assert stop["measured_at"] == "2"
        served = found["served"][rig]
        assert 0 <= served["low"] <= served["estimate"] <= served["high"] <= served["of"] == 3
    assert main(read_p8(tmp_path, places, "--places", "0.5")) == 0
    assert "serves" in capsys.readouterr().out


def test_places_without_a_fixed_end_are_refused_in_words(tmp_path, capsys):
    file = tmp_path / "one.geojson"
    file.write_text('{"type": "Point", "coordinates": [-22.0, 47.0]}')
    assert main([*READ, "--places", str(file)]) != 0
    assert "where the fixed end stands" in capsys.readouterr().err


def test_a_second_file_of_places_is_refused_not_left_out(capsys):
    assert main([*READ, "--places", "a.geojson", "--places", "b.geojson"]) != 0
    assert "two files" in capsys.readouterr().err


def walls_file(tmp_path, **properties):
    line = {"type": "LineString", "coordinates": [[-20.9985, 47.49], [-20.9985, 47.51]]}
    file = tmp_path / "walls.geojson"
    file.write_text(json.dumps({"type": "Feature", "properties": properties, "geometry": line}))
    return ["--walls", str(file)]


def test_walls_of_a_file_count_or_it_is_said_why_not(tmp_path, capsys):
    places = {"behind": (47.5, -20.995), "before": (47.5, -20.9996)}
    assert main(read_p8(tmp_path, places, "--json")) == 0
    bare = json.loads(capsys.readouterr().out)
    assert bare["site"]["wall_factor"] is None
    walls = walls_file(tmp_path, wall="heavy", name="dyke")
    assert main(read_p8(tmp_path, places, "--json", *walls)) == 0
    found = json.loads(capsys.readouterr().out)
    notes = {one["code"]: one["text"] for one in found["notes"]}
    assert {"walls_known", "walls_left"} & set(notes)
    if "walls_known" in notes:
        assert found["site"]["law"].endswith("beside walls")
        assert found["site"]["wall_factor"]["low"] < found["site"]["wall_factor"]["high"]


def test_a_stop_without_coordinates_leaves_walls_out_by_name(tmp_path, capsys):
    assert main([*READ, "--json", *walls_file(tmp_path, loss_db=8)]) == 0
    notes = {one["code"]: one["text"] for one in json.loads(capsys.readouterr().out)["notes"]}
    assert notes["walls_left"].startswith("The fixed end has no coordinates.")


def test_a_file_without_a_wall_or_of_straw_is_refused(tmp_path, capsys):
    assert main([*READ, *walls_file(tmp_path, name="path")]) != 0
    assert "holds no wall" in capsys.readouterr().err
    assert main([*READ, *walls_file(tmp_path, wall="straw")]) != 0
    assert "“straw” is nothing a wall" in capsys.readouterr().err
