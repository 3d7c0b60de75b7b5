"""Deleting what the shelf holds of a study."""

from __future__ import annotations

from inchmark.studies.models import Study


def delete_shelf(study: Study) -> None:
    """Delete rigs before their settings, and both before modules, antennas and the rest."""
    for rows in (
        study.rigs,
        study.sweeps,
        study.conducted_checks,
        study.units,
        study.settings,
        study.module_parts,
        study.antenna_parts,
        study.feed_parts,
        study.battery_parts,
    ):
        rows.all().delete()
