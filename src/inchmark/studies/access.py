"""How a view reaches a study: by membership, for seeing or for changing."""

from __future__ import annotations

from django.http import HttpRequest
from django.shortcuts import get_object_or_404

from inchmark.studies.models import Study


def study_for(request: HttpRequest, study_id: int, *, editing: bool = False) -> Study:
    """Return the study of an address; 404 for who may not do there what the request does.

    Whatever is posted changes something, so only members who may change the study get through;
    `editing` asks that of a page that only shows the form.
    """
    changes = editing or request.method not in ("GET", "HEAD")
    reach = Study.objects.editable_by if changes else Study.objects.visible_to
    study: Study = get_object_or_404(reach(request.user), pk=study_id)
    return study
