"""Rigs, by who may see them."""

from inchmark.studies.querysets import InStudyQuerySet


class RigQuerySet(InStudyQuerySet):
    """Rigs of studies."""


class MeasuredItemQuerySet(InStudyQuerySet):
    """Measured items, reached through their rig."""

    to_study = "rig__study"
