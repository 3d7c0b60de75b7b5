"""The core held against tables of reference values."""

from inchmark.cli.reference.tables import TABLES, TableResult, check_table, check_tables

__all__ = ["TABLES", "TableResult", "check_table", "check_tables"]
