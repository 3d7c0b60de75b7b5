"""Readings, by who may see them."""

from inchmark.studies.querysets import InStudyQuerySet


class ReadingQuerySet(InStudyQuerySet):
    """Readings of studies."""
