"""Values from outside, each with its source beside it in the table's own column."""

import csv
from pathlib import Path

import pytest

from inchmark.cli.reference import TABLES, check_table

TABLES_HERE = Path(__file__).parents[1] / "reference"


@pytest.mark.parametrize("name", sorted(TABLES))
def test_the_core_agrees_with_the_published_table(name):
    result = check_table(TABLES_HERE / f"{name}.csv")
    assert result.failed == []
    assert result.rows > 0


def test_every_published_row_names_its_source():
    rows = 0
    for path in TABLES_HERE.glob("*.csv"):
        for row in csv.DictReader(path.read_text(encoding="utf-8").splitlines()):
            assert row["source"], f"{path.name} {row['case_id']}"
            assert row["source_kind"] in {"published", "formula", "library", "memory", "practice"}
            rows += 1
    assert rows >= 12


def test_a_value_beyond_its_tolerance_is_reported_with_both_figures(tmp_path):
    header = "case_id,distance_m,frequency_mhz,expected_loss_db,tolerance_loss_db\n"
    (tmp_path / "free_space.csv").write_text(header + "x1,1000,868,92.5,0.05\n")
    result = check_table(tmp_path / "free_space.csv")
    assert result.worst > 1
    assert result.failed == ["x1: loss_db is 91.21817773, expected 92.5 ± 0.05"]


def test_a_row_the_core_refuses_counts_as_failed(tmp_path):
    header = "case_id,distance_m,frequency_mhz,expected_loss_db,tolerance_loss_db\n"
    (tmp_path / "free_space.csv").write_text(header + "x1,-5,868,92.5,0.05\n")
    result = check_table(tmp_path / "free_space.csv")
    assert "must be greater than 0" in result.failed[0]
