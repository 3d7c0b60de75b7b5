"""Verbs on the features of a site's map: keep those of a file, take them off."""

from __future__ import annotations

from django.db import transaction

from inchmark.formats.features import read_features
from inchmark.plan.models import SiteFeatures
from inchmark.studies.models import Study


@transaction.atomic
def keep_features(study: Study, data: bytes, name: str) -> SiteFeatures:
    """Keep the features of a GeoJSON file; earlier ones are replaced.

    Raises
    ------
    UnreadableFileError
        The file holds none.
    """
    found = [[one.kind, one.name, one.rings] for one in read_features(data)]
    kept, _ = SiteFeatures.objects.update_or_create(
        study=study, defaults={"name": name[-200:], "features": found}
    )
    return kept


@transaction.atomic
def remove_features(study: Study) -> None:
    """Take the features off."""
    SiteFeatures.objects.filter(study=study).delete()
