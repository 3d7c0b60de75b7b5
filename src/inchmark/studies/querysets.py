"""Who sees which study: every object is reached through its study's membership."""

from __future__ import annotations

from typing import Any

from django.db.models import Case, Q, QuerySet, When


class StudyQuerySet(QuerySet[Any]):
    """Studies."""

    def visible_to(self, user: Any) -> StudyQuerySet:
        """Return the studies a user is a member of."""
        return self.filter(memberships__user=user)

    def demo_first(self) -> StudyQuerySet:
        """Return them with the demo at the head, then the newest first."""
        demo = Case(When(kind="demo", then=0), default=1)
        return self.order_by(demo, "-created_at", "-pk")

    def editable_by(self, user: Any) -> StudyQuerySet:
        """Return the studies a user may change."""
        return self.filter(memberships__user=user, memberships__role__in=("owner", "editor"))

    def owned_by(self, user: Any) -> StudyQuerySet:
        """Return the studies a user owns: whose people and whose end they decide."""
        return self.filter(memberships__user=user, memberships__role="owner")


class InStudyQuerySet(QuerySet[Any]):
    """Rows that belong to a study through a path of foreign keys named in `to_study`."""

    to_study = "study"

    def visible_to(self, user: Any) -> InStudyQuerySet:
        """Return the rows of studies a user is a member of."""
        return self.filter(**{f"{self.to_study}__memberships__user": user})

    def editable_by(self, user: Any) -> InStudyQuerySet:
        """Return the rows of studies a user may change."""
        member = f"{self.to_study}__memberships"
        return self.filter(
            Q(**{f"{member}__user": user, f"{member}__role__in": ("owner", "editor")})
        )
