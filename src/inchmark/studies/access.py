"""How a view reaches a study: by membership, for seeing or for changing."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404

from inchmark.studies.models import Study


def study_for(
    request: HttpRequest, study_id: int, *, editing: bool = False, seeing: bool = False
) -> Study:
    """Return the study of an address; 404 for who may not do there what the request does.

    Whatever is posted changes something, so only members who may change the study get through;
    `editing` asks that of a page that only shows the form, `seeing` waives it.
    """
    found = Study.objects.visible_to(request.user) if seeing else None
    if found is None:
        found = reachable(request, Study.objects, editing=editing)
    study: Study = get_object_or_404(found, pk=study_id)
    return study


def owned_study_for(request: HttpRequest, study_id: int) -> Study:
    """Return the study of an address to its owner; 404 for everyone else."""
    study: Study = get_object_or_404(Study.objects.owned_by(request.user), pk=study_id)
    return study


def reachable(request: HttpRequest, objects: Any, *, editing: bool = False) -> Any:
    """Return the rows of a model that who asks may do with what the request does."""
    changes = editing or request.method not in ("GET", "HEAD")
    return objects.editable_by(request.user) if changes else objects.visible_to(request.user)
