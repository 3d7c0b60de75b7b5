"""What stands on the shelf, by who may see it."""

from __future__ import annotations

from inchmark.studies.querysets import InStudyQuerySet


class ShelfQuerySet(InStudyQuerySet):
    """Parts, settings and bench checks of studies."""


class RigQuerySet(InStudyQuerySet):
    """Rigs of studies."""

    def with_parts(self) -> RigQuerySet:
        """Return rigs with their parts and own budget items, in two queries."""
        return self.select_related(
            "module_part",
            "setting_part__module",
            "antenna_part",
            "feed_part",
            "fixed_antenna_part",
            "fixed_feed_part",
            "battery",
        ).prefetch_related("budget_items")


class BudgetItemQuerySet(InStudyQuerySet):
    """Budget items, reached through their rig."""

    to_study = "rig__study"
