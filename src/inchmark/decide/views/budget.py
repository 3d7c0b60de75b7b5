"""Decide: each rig's budget at the needed distance, what-ifs, and its range under each rule."""

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from inchmark.decide.adapters import drawn_changes, drawn_from_item
from inchmark.decide.drawings.ladder import LadderDrawing, ladder_drawing
from inchmark.decide.figures.budgets import (
    BudgetBasis,
    Direction,
    RigBudget,
    WhatIf,
    budgets,
    rig_budget,
)
from inchmark.decide.figures.notes import headline, notes, said, stale_words
from inchmark.decide.figures.places import PlacesTable, places_table
from inchmark.decide.figures.what_ifs import exponent_near, moved, too_much, what_it_comes_to
from inchmark.decide.forms import BudgetItemForm, WhatIfForm
from inchmark.decide.services import budget as services
from inchmark.decide.services.decisions import contradiction
from inchmark.decide.services.ground import basis_for
from inchmark.pages.keeping import kept, outcome, problems_of
from inchmark.pages.parts import go_to, page_or_part
from inchmark.plan.services import site_of
from inchmark.read.services import current_reading
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.shelf.models import BudgetItem
from inchmark.shelf.services.beside import lives_of
from inchmark.studies.access import study_for
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study
from inchmark.studies.tape.marks import RangeMark, marks_of


def ground_of(study: Study) -> BudgetBasis:
    """Return what budgets and places of a study stand on."""
    return BudgetBasis(
        study=study,
        rigs=rigs_of(study),
        site=site_of(study),
        kept=current_reading(study),
    )


@require_GET
@login_required
def decide(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the ladder of one rig, as it is or with what-ifs, and the ranges of all."""
    study = study_for(request, study_id)
    ground = ground_of(study)
    reading_pk = ground.kept.row.pk if ground.kept else 0
    found = per_revision(study, "budgets", lambda: budgets(ground), reading_pk)
    sentence, words = headline(ground, found)
    asked = request.GET.get("rig", "")
    plain = next((one for one in found if one.rig.letter == asked), None)
    if plain is None and found:
        plain = max(found, key=lambda one: one.in_hand_db)
    form = WhatIfForm(request.GET)
    context = {
        "study": study,
        "room": "decide",
        "page": "budget",
        "budgets": found,
        "places": per_revision(study, "places", lambda: _places(ground), reading_pk),
        "lives": per_revision(study, "lives", lambda: lives_of(study, ground.rigs)),
        "plain": plain,
        "what_if": form,
        "as_it_is": not set(request.GET) - {"rig"},
        "reading_pk": reading_pk,
        "item_form": BudgetItemForm(rig=plain.rig) if plain else None,
        "sentence": sentence,
        "words": words,
        "stale_words": stale_words(ground),
        "notes": [*contradiction(study), *notes(ground, found)],
        **(_shown(_with_changes(ground, plain, form)) if plain else {}),
    }
    shown = context.get("shown")
    if plain is not None and shown is not None and shown.what_if.changes:
        basis = basis_for(study, plain.rig)
        context["comes_to"] = what_it_comes_to(plain, shown, ground.reading, basis)
        context["too_much"] = too_much(plain.rig, shown)
        context["tried"] = _tried(ground, plain, shown)
    return page_or_part(request, "decide/decide.html", "decide/_budget_again.html", context)


def _tried(ground: BudgetBasis, plain: RigBudget, shown: RigBudget) -> RangeMark | str:
    """Return the rig's range on the tape with the changes; nothing where it is on none."""
    mark = marks_of(ground.study).ranges.get(plain.rig.letter)
    if mark is None or mark.middle_m is None:
        return ""
    exponent = exponent_near(ground, plain.rig, mark.middle_m)
    return moved(mark, shown.in_hand_db - plain.in_hand_db, exponent)


def _places(ground: BudgetBasis) -> PlacesTable | None:
    if ground.reading is None:
        return None
    points = {one.label: one for one in ground.study.points.all()}
    return places_table(ground.reading.served, points)


def _shown(shown: RigBudget) -> dict[str, Any]:
    """Return the budget that is drawn, its ladders, and what a press on “keep” sends."""
    changed = shown.what_if.changes
    return {
        "shown": shown,
        "ladders": _ladders(shown),
        "changed": bool(changed),
        "kept_changes": drawn_changes(changed),
        "said": said(shown),
        "own_rows": [
            (item, drawn_from_item(item.key, item.db)) for item in shown.rig.budget_items.all()
        ],
        "carries": [
            (name, loss, f"{min(-loss.estimate, 0.0):.2f}") for name, loss in shown.walked_carries
        ],
    }


def _ladders(shown: RigBudget) -> list[tuple[Direction, LadderDrawing]]:
    """Return both directions drawn; an item of both is edited in the first."""
    there, _ = shown.directions
    first = {item.key for item in there.budget.items}
    return [
        (
            one,
            ladder_drawing(
                one.budget,
                one.threshold.dbm,
                changed=shown.what_if.changes,
                shown_before=() if one is there else first,
            ),
        )
        for one in shown.directions
    ]


def _with_changes(ground: BudgetBasis, plain: RigBudget, form: WhatIfForm) -> RigBudget:
    """Return the budget with what the boxes change; as it is where they change nothing."""
    changes = form.changes(plain.items)
    limited_by = form.cleaned_data.get("limit", "") if form.is_valid() else ""
    if not changes and not limited_by:
        return plain
    return rig_budget(ground, plain.rig, WhatIf(changes=changes, limited_by=limited_by))


@require_POST
@login_required
def keep_what_if(request: HttpRequest, study_id: int, rig_id: int) -> HttpResponse:
    """Keep the what-ifs as a new rig on the shelf."""
    study = study_for(request, study_id)
    rig = get_object_or_404(study.rigs.with_parts(), pk=rig_id)
    form = WhatIfForm(request.POST)
    changes = form.changes(rig_budget(ground_of(study), rig).items)
    if not form.is_valid():
        messages.error(request, " ".join(problems_of(form)))
        return _to_rig(request, study, rig.letter)
    copy = outcome(request, lambda: services.keep_as_rig(rig, changes))
    if copy is None:
        return _to_rig(request, study, rig.letter)
    messages.success(request, f"Kept as rig {copy.letter}.")
    return _to_rig(request, study, copy.letter)


@require_POST
@login_required
def item_set(request: HttpRequest, study_id: int, rig_id: int) -> HttpResponse:
    """Give an item of a rig's budget its own value."""
    study = study_for(request, study_id)
    rig = get_object_or_404(study.rigs.all(), pk=rig_id)
    known = rig.budget_items.filter(key=request.POST.get("key", "")).first()
    form = BudgetItemForm(request.POST, instance=known, rig=rig)
    if not kept(form, lambda: services.set_item(rig, **form.cleaned_data)):
        messages.error(request, f"Not kept. {' '.join(problems_of(form))}")
    return _to_rig(request, study, rig.letter)


@require_POST
@login_required
def item_drop(request: HttpRequest, study_id: int, item_id: int) -> HttpResponse:
    """Go back to what the parts say of an item."""
    found = BudgetItem.objects.editable_by(request.user).select_related("rig__study")
    item = get_object_or_404(found, pk=item_id, rig__study_id=study_id)
    services.drop_item(item)
    return _to_rig(request, item.rig.study, item.rig.letter)


def _to_rig(request: HttpRequest, study: Study, letter: str) -> HttpResponse:
    return go_to(request, f"{reverse('decide:decide', args=[study.pk])}?rig={letter}#budget")
