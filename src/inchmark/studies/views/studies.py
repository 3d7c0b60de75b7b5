"""The list of studies, a study's question, and what is done with side notes."""

from copy import copy

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from inchmark.pages.keeping import done, posted, problems_of
from inchmark.pages.parts import go_to
from inchmark.studies import services
from inchmark.studies.access import study_for
from inchmark.studies.forms import AskedForm, NoteDecisionForm, RulesForm, StudyForm
from inchmark.studies.models import Removed, Study
from inchmark.studies.questions import BY_KEY, QUESTIONS, Asked
from inchmark.studies.services import undo


@require_GET
@login_required
def study_list(request: HttpRequest) -> HttpResponse:
    """Show three doors, then the studies one is a member of, the demo first."""
    studies = Study.objects.visible_to(request.user).demo_first()
    return render(request, "studies/list.html", {"studies": studies})


@require_http_methods(["GET", "POST"])
@login_required
def study_add(request: HttpRequest) -> HttpResponse:
    """Ask what the study is about, then start it with what that question needs."""
    asked = BY_KEY.get(request.POST.get("asks", request.GET.get("asks", "")))
    if asked is None and request.method == "GET":
        return render(request, "studies/study_asks.html", {"questions": QUESTIONS})
    form = StudyForm(posted(request), initial=_beginning(request, asked))
    if form.is_valid():
        study = services.start_study(by=request.user, **form.cleaned_data)
        return go_to(request, "shelf:rigs", study.pk)
    context = {"form": form, "asked": asked}
    return render(request, "studies/study_add.html", context, status=422 if form.is_bound else 200)


def _beginning(request: HttpRequest, asked: Asked | None) -> dict[str, str]:
    """Return what a new study begins with: its question in words, the rules of the last one's place."""
    last = Study.objects.visible_to(request.user).filter(kind=Study.OWN).first()
    found = {"region": last.region} if last else {}
    return found | ({"asks": asked.key, "question": asked.example} if asked else {})


@require_http_methods(["GET", "POST"])
@login_required
def study_edit(request: HttpRequest, study_id: int) -> HttpResponse:
    """Change the question, the needed distance or the rules a range is read under."""
    study = study_for(request, study_id, editing=True)
    data = posted(request)
    # forms write what was typed into their study before anyone has kept it; the tape is drawn of ours
    typed = copy(study)
    form, rules = StudyForm(data, instance=typed), RulesForm(data, instance=typed)
    kind = AskedForm(data, instance=copy(study))
    if data is not None and form.is_valid() and rules.is_valid() and kind.is_valid():
        services.change_study(study, **form.cleaned_data | rules.cleaned_data | kind.cleaned_data)
        return go_to(request, study)
    context = {"form": form, "rules": rules, "kind": kind, "study": study}
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
    return _back(request, study)


@require_POST
@login_required
def put_back(request: HttpRequest, study_id: int, removed_id: int) -> HttpResponse:
    """Put back what was removed."""
    study = study_for(request, study_id)
    found = Removed.objects.filter(pk=removed_id).first()
    if found is not None and found.study_id != study.pk:
        raise Http404
    if found is None:
        messages.error(request, "That was put back already, or too much was removed since.")
    elif done(request, lambda: undo.put_back(found)):
        messages.success(request, f"{found.words} is back.")
    return _back(request, study)


def _back(request: HttpRequest, study: Study) -> HttpResponse:
    back = request.POST.get("next", "")
    if back.startswith("/") and url_has_allowed_host_and_scheme(back, allowed_hosts=None):
        return go_to(request, back)
    return go_to(request, study)
