"""Budgets at the needed distance, and the notes beside them."""

from inchmark.decide.records import budgets, notes

__all__ = ["budgets", "notes"]
