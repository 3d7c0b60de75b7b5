"""The list of studies, a study's question, and what is done with side notes."""

from copy import copy

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from inchmark.pages.keeping import done, posted, problems_of
from inchmark.pages.parts import go_to
from inchmark.studies import services
from inchmark.studies.access import study_for
from inchmark.studies.forms import NoteDecisionForm, RulesForm, StudyForm
from inchmark.studies.models import Study


@require_GET
@login_required
def study_list(request: HttpRequest) -> HttpResponse:
    """Show the studies one is a member of."""
    studies = Study.objects.visible_to(request.user)
    return render(request, "studies/list.html", {"studies": studies})


@require_http_methods(["GET", "POST"])
@login_required
def study_add(request: HttpRequest) -> HttpResponse:
    """Start a study."""
    form = StudyForm(posted(request))
    if form.is_valid():
        study = services.start_study(by=request.user, **form.cleaned_data)
        return go_to(request, "shelf:rigs", study.pk)
    return render(
        request, "studies/study_add.html", {"form": form}, status=422 if form.is_bound else 200
    )


@require_http_methods(["GET", "POST"])
@login_required
def study_edit(request: HttpRequest, study_id: int) -> HttpResponse:
    """Change the question, the needed distance or the rules a range is read under."""
    study = study_for(request, study_id, editing=True)
    data = posted(request)
    # forms write what was typed into their study before anyone has kept it; the tape is drawn of ours
    typed = copy(study)
    form, rules = StudyForm(data, instance=typed), RulesForm(data, instance=typed)
    if data is not None and form.is_valid() and rules.is_valid():
        services.change_study(study, **form.cleaned_data, **rules.cleaned_data)
        return go_to(request, study)
    context = {"form": form, "rules": rules, "study": study}
    return render(request, "studies/study_edit.html", context, status=422 if form.is_bound else 200)


@require_POST
@login_required
def note_decide(request: HttpRequest, study_id: int) -> HttpResponse:
    """Accept a side note, set it aside with a reason, or open it again."""
    study = study_for(request, study_id)
    form = NoteDecisionForm(request.POST)
    if form.is_valid():
        done(request, lambda: services.decide_note(study, by=request.user, **form.cleaned_data))
    else:
        messages.error(request, " ".join(problems_of(form)))
    back = request.POST.get("next", "")
    if back.startswith("/") and url_has_allowed_host_and_scheme(back, allowed_hosts=None):
        return go_to(request, back)
    return go_to(request, study)
