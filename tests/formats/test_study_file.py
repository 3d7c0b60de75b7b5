"""The study file: what counts, what does not and is said, what is refused with where."""

import json
from pathlib import Path

import pytest

from inchmark.cli import main
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.study_file import read_study_file

DATASETS = Path(__file__).parents[1] / "datasets"


def read(**changes):
    return read_study_file(json.dumps(changes).encode())


def run(name, capsys, *more, study=None):
    folder = DATASETS / name
    files = ["--frames", folder / "frames.csv", "--stops", folder / "stops.csv"]
    files += ["--study", study or folder / "study.json"]
    status = main(["read", *map(str, files), *more, "--json"])
    out = capsys.readouterr()
    return status, json.loads(out.out) if status == 0 else out.err


def test_everything_a_study_file_knows_reaches_the_fit():
    study = read(
        rigs=[{"rig": "A", "module_type": "T", "power_dbm": 10, "unit": "u", "height_m": 2}],
        receivers=[{"receiver": "mast", "module_type": "T", "lat": 47.5, "lon": -21}],
        fixed_end={"power_dbm": 14, "height_m": 9},
        frequency_mhz=868,
        reference_condition="free",
        rssi_step_db=2,
    )
    facts, site = study.rig_facts()["A"], study.site_facts()
    assert (facts.to_carried_db, facts.prior.unit) == (4, "u")
    assert (site.fixed_height_m, site.carried_height_m, site.rssi_step_db) == (9, 2, 2)
    assert site.receivers[0].spot == (47.5, -21)
    assert (site.frequency_hz, site.reference_condition) == (868e6, "free")
    assert study.not_counted() == []


def test_unknown_keys_are_named_with_where_they_stand():
    study = read(colour="red", rigs=[{"rig": "A", "paint": 1}], fixed_end={"mood": "fine"})
    assert study.not_counted() == ["colour", "rigs[0].paint", "fixed_end.mood"]


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"{", "no JSON"),
        (b"\xff\xfe", "no JSON"),
        (b"[1]", "one JSON object"),
        (b'{"rigs": [{"power_dbm": 14}]}', "rigs.0.rig"),
        (b'{"rigs": [{"rig": "A", "datasheet_sensitivity_dbm": "low"}]}', "sensitivity"),
        (b'{"frequency_mhz": -1}', "frequency_mhz"),
        (b"[" * 100_000, "no JSON"),
    ],
)
def test_what_cannot_be_says_where(data, words):
    with pytest.raises(UnreadableFileError, match=words):
        read_study_file(data)


def test_a_bad_study_file_is_a_sentence_on_the_command_line(tmp_path, capsys):
    bad = tmp_path / "study.json"
    bad.write_text('{"rigs": 3}')
    status, words = run("p2-small", capsys, study=bad)
    assert status == 2
    assert words.startswith("inchmark read: The study file, rigs:")


def test_replies_alone_are_one_threshold_of_the_pair(tmp_path, capsys):
    text = json.loads((DATASETS / "p2-small" / "study.json").read_text())
    (tmp_path / "study.json").write_text(json.dumps(text | {"what": "replies"}))
    _, plain = run("p2-small", capsys)
    _, data = run("p2-small", capsys, study=tmp_path / "study.json")
    assert {row["direction"] for row in data["links"]} == {"replies"}

    def width(found):
        return (
            found["rigs"]["A"]["threshold_dbm"]["high"] - found["rigs"]["A"]["threshold_dbm"]["low"]
        )

    assert width(data) > width(plain)


def test_the_json_holds_links_exchanges_and_flags_as_promised(capsys):
    _, data = run("p7-both-directions", capsys)
    link = data["links"][0]
    assert {"rig", "direction", "receiver", "sent", "heard", "threshold_dbm", "range_m"} <= set(
        link
    )
    assert {"noise_dbm", "edge_shown"} <= set(link)
    assert set(link["range_m"]) == {"last_heard", "loss_rule", "in_hand"}
    assert [row["rig"] for row in data["exchange"]] == ["A", "B"]
    assert set(data["exchange"][0]["range_m"]) == {"estimate", "low", "high"}
    assert {"direction", "receiver", "condition"} <= set(data["differences"][0])
    assert data["bearings"] is None
    assert data["check"]["visits"] == 32
    assert data["guidance"]["verdict"] in ("enough", "go on", "will not settle")


def test_the_rule_of_directions_can_be_chosen(capsys):
    reach = {}
    for rule in ("worse", "exchange", "to_carried"):
        _, data = run("p7-both-directions", capsys, "--direction", rule)
        reach[rule] = data["rigs"]["A"]["range_m"]["loss_rule"]["estimate"]
    assert reach["exchange"] <= reach["worse"] < reach["to_carried"]
