"""The shelf: a study's rigs, and what each should do."""

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from inchmark.pages.keeping import kept, outcome, posted
from inchmark.pages.listing import Wanted
from inchmark.pages.parts import go_to, page_or_part
from inchmark.shelf import services
from inchmark.shelf.adapters.parts import chain_of
from inchmark.shelf.adapters.rigs import rigs_of, start_frequency_hz
from inchmark.shelf.figures.lists import rig_list
from inchmark.shelf.figures.rig_words import kept_words
from inchmark.shelf.figures.rigs import difference_table
from inchmark.shelf.forms.rigs import RigForm
from inchmark.shelf.models import Rig
from inchmark.studies.access import study_for
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study
from inchmark.studies.removing import removing


@require_GET
@login_required
def rigs(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the rigs with airtime, sensitivity and what an hour allows."""
    study = study_for(request, study_id)
    found, wanted = rigs_of(study), Wanted.of(request)
    context = {
        "study": study,
        "room": "shelf",
        "page": "rigs",
        "listing": per_revision(study, "rig-list", lambda: rig_list(found, wanted), wanted),
        "differences": per_revision(study, "differences", lambda: difference_table(found)),
        "chains": per_revision(study, "chains", lambda: [(rig, chain_of(rig)) for rig in found]),
    }
    return page_or_part(request, "shelf/rigs.html", "shelf/_rig_list.html", context)


@require_http_methods(["GET", "POST"])
@login_required
def rig_add(request: HttpRequest, study_id: int) -> HttpResponse:
    """Put a rig on the shelf."""
    study = study_for(request, study_id, editing=True)
    start = Rig(letter=services.rigs.next_letter(study), spreading_factor=7)
    start.frequency_hz = start_frequency_hz(study) or start.frequency_hz
    data = posted(request)
    form = RigForm(data, instance=start, study=study)
    return _save(request, study, form, "shelf/rig_add.html")


@require_http_methods(["GET", "POST"])
@login_required
def rig_edit(request: HttpRequest, study_id: int, rig_id: int) -> HttpResponse:
    """Change a rig."""
    study = study_for(request, study_id, editing=True)
    rig = get_object_or_404(study.rigs, pk=rig_id)
    data = posted(request)
    form = RigForm(data, instance=rig, study=study)
    return _save(request, study, form, "shelf/rig_edit.html")


def _save(request: HttpRequest, study: Study, form: RigForm, page: str) -> HttpResponse:
    before = study.rigs.with_parts().filter(pk=form.instance.pk).first()
    if kept(form, lambda: services.rigs.save_rig(study, form.instance)):
        walked = before is not None and before.visits.exists()
        said = kept_words(form.instance, before, study.region, walked=walked)
        messages.success(request, said)
        return go_to(request, "shelf:rigs", study.pk)
    context = {"study": study, "form": form, "room": "shelf", "page": "rigs", "rig": form.instance}
    return render(request, page, context, status=422 if form.is_bound else 200)


@require_POST
@login_required
def rig_copy(request: HttpRequest, study_id: int, rig_id: int) -> HttpResponse:
    """Copy a rig to change one thing on the copy."""
    study = study_for(request, study_id)
    rig = get_object_or_404(study.rigs, pk=rig_id)
    copy = outcome(request, lambda: services.rigs.copy_rig(rig))
    return go_to(request, "shelf:rig-edit", study.pk, copy.pk if copy else rig.pk)


@require_POST
@login_required
def rig_remove(request: HttpRequest, study_id: int, rig_id: int) -> HttpResponse:
    """Take a rig off the shelf."""
    rig = get_object_or_404(Rig.objects.editable_by(request.user), pk=rig_id, study=study_id)
    removing(request, lambda: services.rigs.remove_rig(rig))
    return go_to(request, "shelf:rigs", study_id)
