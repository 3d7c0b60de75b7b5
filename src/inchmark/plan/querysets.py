"""Stops, by who may see them."""

from inchmark.studies.querysets import InStudyQuerySet


class StopQuerySet(InStudyQuerySet):
    """Stops of studies."""


class DesignQuerySet(InStudyQuerySet):
    """Designs of studies."""
