"""Walks, files and visits, by who may see them."""

from inchmark.studies.querysets import InStudyQuerySet


class WalkQuerySet(InStudyQuerySet):
    """Walks of studies."""


class InWalkQuerySet(InStudyQuerySet):
    """Rows of a walk of a study."""

    to_study = "walk__study"
