"""Rigs, by who may see them."""

from inchmark.studies.querysets import InStudyQuerySet


class RigQuerySet(InStudyQuerySet):
    """Rigs of studies."""
