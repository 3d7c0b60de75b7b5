"""Decide: each rig's budget at the needed distance, and its range under each rule."""

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from inchmark.decide import records
from inchmark.read.records import latest_reading
from inchmark.studies.models import Study


@require_GET
@login_required
def decide(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the ladder of one rig and the ranges of all."""
    study = get_object_or_404(Study.objects.visible_to(request.user), pk=study_id)
    reading = latest_reading(study)
    found = records.budgets(study, reading)
    sentence, words = records.headline(study, found, reading)
    asked = request.GET.get("rig", "")
    shown = next((one for one in found if one.rig.letter == asked), None)
    if shown is None and found:
        shown = max(found, key=lambda one: one.ladders[0].in_hand_db)
    context = {
        "study": study,
        "room": "decide",
        "budgets": found,
        "shown": shown,
        "sentence": sentence,
        "words": words,
        "reading": reading,
        "stale": reading is None or reading.revision < study.revision,
        "notes": records.notes(study, found, reading),
    }
    return render(request, "decide/decide.html", context)
