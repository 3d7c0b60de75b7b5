"""Readings, and the studies that no job will read."""

from __future__ import annotations

from django.db import connection

from inchmark.studies.querysets import InStudyQuerySet

_MISSED = """
    SELECT s.id FROM studies_study s
    WHERE s.revision > coalesce(
              (SELECT max(r.revision) FROM read_studyreading r WHERE r.study_id = s.id), 0)
      AND EXISTS (SELECT 1 FROM walk_visit v JOIN walk_walk w ON w.id = v.walk_id
                  WHERE w.study_id = s.id)
      AND NOT EXISTS (SELECT 1 FROM read_readingfailure f
                      WHERE f.study_id = s.id AND f.revision = s.revision)
      AND NOT EXISTS (SELECT 1 FROM procrastinate_jobs j
                      WHERE j.queue_name = 'read' AND j.status IN ('todo', 'doing')
                        AND (j.args ->> 'study_id')::bigint = s.id)
    LIMIT 200
"""


class ReadingQuerySet(InStudyQuerySet):
    """Readings of studies."""

    def missed(self) -> list[int]:
        """Return the studies that are behind, have visits, and have no job and no failure."""
        with connection.cursor() as cursor:
            cursor.execute(_MISSED)
            return [pk for (pk,) in cursor.fetchall()]
