"""Needed places: which a rig serves, what would mend the weak ones, and what is tried on the map."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_GET

from inchmark.decide.figures.placed import Placed, placed
from inchmark.decide.forms import TryForm
from inchmark.decide.services.ground import basis_for, changes_of, rig_asked
from inchmark.decide.services.map import bands, marks
from inchmark.pages.keeping import problems_of
from inchmark.pages.parts import allow_pictures, page_or_part
from inchmark.people.services.rates import at_most
from inchmark.plan.drawings.maps import tiles_origin
from inchmark.read.services import current_reading
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.studies.access import study_for
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study


@require_GET
@login_required
def places(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show one rig's places, the weakest first, what mends one, and what is tried."""
    study = study_for(request, study_id)
    found, form = _placed(request, study)
    context: dict[str, Any] = {
        "study": study,
        "room": "decide",
        "page": "places",
        "found": found,
        "letters": [one.letter for one in rigs_of(study)],
        "form": form,
        "problems": problems_of(form) if form.is_bound and not form.is_valid() else [],
        "data": marks(study, found) if found else None,
        "reading_pk": found.reading_pk if found else 0,
        "query": _query(request, found.rig.letter if found else ""),
    }
    response = page_or_part(request, "decide/places.html", "decide/_tried.html", context)
    return allow_pictures(response, tiles_origin(found.site) if found else "")


@require_GET
@login_required
@at_most(240)
def places_map(request: HttpRequest, study_id: int) -> HttpResponse:
    """Return how likely the rule is met all around, as bands to draw."""
    study = study_for(request, study_id)
    found, _ = _placed(request, study)
    return JsonResponse({"bands": bands(found) if found else []})


def _placed(request: HttpRequest, study: Study) -> tuple[Placed | None, TryForm]:
    rig = rig_asked(study, request.GET.get("rig", ""))
    form = TryForm(request.GET)
    basis = basis_for(study, rig) if rig else None
    if rig is None or basis is None:
        return None, form
    changed = per_revision(study, "changes", lambda: changes_of(study, rig), rig.pk)
    asked = request.GET.get("place", "")
    kept = current_reading(study)
    reading = kept.reading if kept else None
    shown = placed(study, basis, changed, asked, form.tried(), reading)
    return replace(shown, reading_pk=kept.row.pk if kept else 0), form


def _query(request: HttpRequest, letter: str) -> str:
    """Return what is tried, as an address carries it; without the place that is looked at."""
    asked = request.GET.copy()
    asked.pop("place", None)
    if letter and "rig" not in asked:
        asked["rig"] = letter
    return asked.urlencode()
