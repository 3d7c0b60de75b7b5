"""How a log is read: its recipe, names the study lacks, setting it aside; and a study begun with logs."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_http_methods, require_POST

from inchmark.pages.folds import said_of as said_of_form
from inchmark.pages.keeping import done, kept, posted
from inchmark.pages.parts import go_to
from inchmark.people.services.rates import at_most
from inchmark.studies.access import reachable
from inchmark.studies.models import Study
from inchmark.walk.adapters.logs import lacking, said_of
from inchmark.walk.adapters.recipes import parts_of, recipe_said
from inchmark.walk.forms.recipes import AsideForm, LogsForm, NamesForm, RecipeForm, SaidForm
from inchmark.walk.models import FrameFile, Walk
from inchmark.walk.services import known_recipes, receive, recipes, starting
from inchmark.walk.services.retention import without_lines

MOST_FILES = 40


@require_http_methods(["GET", "POST"])
@login_required
@at_most(60)
def recipe(request: HttpRequest, study_id: int, file_id: int) -> HttpResponse:
    """Show what each part of a log was taken for and what its lines become; keep it, or show it anew."""
    files = reachable(request, FrameFile.objects).select_related("walk__study")
    file = get_object_or_404(files, pk=file_id, walk__study=study_id)
    if file.state == FrameFile.FAILED and file.recipe is None:
        messages.error(request, f"{file.name}: {file.problem}")
        return go_to(request, file.walk)
    if file.let_go_at:
        messages.error(request, without_lines(file))
        return go_to(request, file.walk)
    begun = known_recipes.begun(file)
    proposal = begun.proposal
    form = RecipeForm(
        parts_of(proposal), posted(request), initial=recipes.form_values(proposal.recipe)
    )
    said_form = SaidForm(file.walk.study, posted(request), initial=said_of(file).model_dump())
    made, said = proposal.recipe, said_of(file)
    if form.is_bound and form.is_valid() and said_form.is_valid():
        level, month = form.level_said(), form.cleaned_data["month_first"]
        made = recipe_said(proposal, form.chosen(), level, month_first=month)
        said = recipes.anchored(
            file, said_form.said(said), made, said_form.cleaned_data["starts_at"]
        )
        if "keep" in request.POST:
            return _kept(request, recipes.keep_recipe(file, made, said))
    context = {
        "study": file.walk.study,
        "room": "walk",
        "file": file,
        "unsaid": ", ".join(said_of_form(said_form, list(said_form.fields)))
        or "nothing more is needed",
        "walk": file.walk,
        "form": form,
        "said": said_form,
        "known_from": begun.known_from,
        "questions": () if form.is_bound else proposal.questions,
        "preview": recipes.preview(file, made, said),
    }
    wrong = form.is_bound and bool(form.errors or said_form.errors)
    return render(request, "walk/recipe.html", context, status=422 if wrong else 200)


def _kept(request: HttpRequest, file: FrameFile) -> HttpResponse:
    """Go on: to the next log that waits, to names the study lacks, or to the walk."""
    if file.problem:
        messages.error(request, f"{file.name}: {file.problem}")
        return go_to(request, "walk:recipe", file.walk.study_id, file.pk)
    messages.success(request, recipes.outcome_words(file))
    waiting = file.walk.files.filter(state=FrameFile.ASKING).first()
    if waiting:
        return go_to(request, "walk:recipe", file.walk.study_id, waiting.pk)
    if lacking(list(file.walk.files.all())):
        return go_to(request, "walk:names", file.walk.study_id, file.walk_id)
    return go_to(request, file.walk)


@require_http_methods(["GET", "POST"])
@login_required
@at_most(30)
def names(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Show the rigs and stops that a walk's logs name and the study lacks; make or map them."""
    walks = reachable(request, Walk.objects).select_related("study")
    walk = get_object_or_404(walks, pk=walk_id, study=study_id)
    files = list(walk.files.filter(let_go_at=None).select_related("walk__study"))
    lacks = lacking(files)
    form = NamesForm(walk.study, lacks, posted(request))

    def keep() -> None:
        touched = recipes.name_lacking(walk.study, files, form.rigs(), form.stops())
        for file in touched:
            recipes.read_now(file)

    if form.is_bound and kept(form, keep, file=None):
        return go_to(request, "read:reading" if walk.visits.exists() else walk, *_of(walk))
    context = {"study": walk.study, "room": "walk", "walk": walk, "form": form, "lacks": lacks}
    return render(request, "walk/names.html", context, status=422 if form.is_bound else 200)


def _of(walk: Walk) -> tuple[int, ...]:
    return (walk.study_id,) if walk.visits.exists() else ()


@require_POST
@login_required
def file_aside(request: HttpRequest, study_id: int, file_id: int) -> HttpResponse:
    """Set a log aside with a reason, or take it back."""
    files = FrameFile.objects.editable_by(request.user).select_related("walk__study")
    file = get_object_or_404(files, pk=file_id, walk__study=study_id)
    if file.state == FrameFile.ASIDE:
        recipes.take_back(file)
        return go_to(request, file.walk)
    form = AsideForm(request.POST)
    if form.is_valid():
        done(request, lambda: recipes.set_aside(file, form.cleaned_data["reason"]))
    else:
        messages.error(request, "Not set aside: say in a few words why the log does not count.")
    return go_to(request, file.walk)


@require_http_methods(["GET", "POST"])
@login_required
@at_most(10)
def begin(request: HttpRequest) -> HttpResponse:
    """Begin a study with logs."""
    form = LogsForm(posted(request))
    files = request.FILES.getlist("files")[:MOST_FILES] if request.method == "POST" else []
    if form.is_bound and form.is_valid():
        if files:
            study = starting.study_from_logs(
                request.user, form.cleaned_data["title"] or files[0].name or "Study"
            )
            return _begun(request, study, files)
        form.add_error(None, "Choose one log or more: a file of any board's console, or a table.")
    return render(request, "walk/begin.html", {"form": form}, status=422 if form.is_bound else 200)


def _begun(request: HttpRequest, study: Study, files: list[UploadedFile[Any]]) -> HttpResponse:
    walk = study.walks.get()
    for one in files:
        try:
            recipes.take_in(
                walk, one.name or "log", one.chunks(1 << 20), request.user, waiting=True
            )
        except receive.RefusedError as wrong:
            messages.error(request, f"{one.name}: {wrong}")
    waiting = walk.files.filter(state=FrameFile.ASKING).first()
    if waiting:
        return go_to(request, "walk:recipe", study.pk, waiting.pk)
    if lacking(list(walk.files.all())):
        return go_to(request, "walk:names", study.pk, walk.pk)
    return go_to(request, walk)
